/**
 * Arithmetic of what is typed into a number field: `+ - * /`, brackets, and numbers that may carry a unit. A recursive descent over the text;
 * nothing of it is ever run as code.
 */
export type Factors = Readonly<Record<string, number>>;

/** A value on the way: `factor` is null for a bare number, else the SI value of the unit that it was typed with. */
interface Term {
  readonly value: number;
  readonly factor: number | null;
}

export type Evaluated =
  { readonly ok: true; readonly value: number; readonly bare: boolean } | { readonly ok: false; readonly message: string };

class Mistake extends Error {}

/** A number with commas, whole. */
const WITH_COMMAS = /[\d.]*,[\d.,]*/g;
const GROUPS = /^[1-9]\d{0,2}(?:,\d{3})+(?:\.\d+)?$/;
const ONE_GROUP = /^[1-9]\d{0,2},\d{3}$/;

/**
 * Commas as they are meant: between thousands they go, before decimals they are points. One comma with three digits after it may be either: a person in one country
 * means 1200 by "1,200", one in another 1.2. Then nothing is guessed.
 */
function withoutCommas(text: string): string {
  return text.replace(WITH_COMMAS, (number) => {
    if (ONE_GROUP.test(number)) {
      const [whole = '', part = ''] = number.split(',');
      throw new Mistake(`"${number}" may mean ${whole}${part} or ${String(Number(`${whole}.${part}`))}: write it without the comma`);
    }
    if (GROUPS.test(number)) return number.replaceAll(',', '');
    if (/^(?:\d+,\d*|,\d+)$/.test(number)) return number.replace(',', '.');
    throw new Mistake(`"${number}" is not a number`);
  });
}

/** SI value of an expression; `bare` when no unit was typed, so that the field's own unit is meant. `shown`: SI value of that unit. */
export function evaluate(text: string, factors: Factors, shown: number, known: string): Evaluated {
  let source = '';
  const units = Object.keys(factors).sort((a, b) => b.length - a.length);
  let at = 0;
  const space = (): void => {
    while (source[at] === ' ') at++;
  };
  const take = (symbol: string): boolean => {
    space();
    if (source[at] !== symbol) return false;
    at++;
    return true;
  };
  const unit = (): number | null => {
    space();
    const rest = source.slice(at).toLowerCase();
    const found = units.find((u) => rest.startsWith(u) && !/^[a-z°²]/.test(rest.slice(u.length)));
    if (found !== undefined) {
      at += found.length;
      return factors[found] ?? null;
    }
    const stranger = /^[^\s\d+\-*/().]+(?:\/[a-z]+)?/i.exec(source.slice(at));
    if (stranger) throw new Mistake(`"${stranger[0]}" is not a unit here${known ? `; use ${known}` : ''}`);
    return null;
  };
  const primary = (): Term => {
    if (take('(')) {
      const inside = sum();
      if (!take(')')) throw new Mistake(`"${text}" has a bracket that is not closed`);
      return inside;
    }
    if (take('-')) {
      const { value, factor } = primary();
      return { value: -value, factor };
    }
    if (take('+')) return primary();
    space();
    const number = /^(?:\d+\.?\d*|\.\d+)(?:e[+-]?\d+)?/i.exec(source.slice(at));
    if (!number) throw new Mistake(`"${text}" is not a number`);
    at += number[0].length;
    const factor = unit();
    return { value: Number(number[0]) * (factor ?? 1), factor };
  };
  const product = (): Term => {
    let left = primary();
    for (;;) {
      const times = take('*');
      if (!times && !take('/')) return left;
      const right = primary();
      if (times && left.factor !== null && right.factor !== null) throw new Mistake(`"${text}" multiplies two units`);
      // `1/24 s` is a twenty-fourth of a second; a length divided by a length is a number.
      const scale = !times && left.factor === null && right.factor !== null ? right.factor ** 2 : 1;
      left = {
        value: times ? left.value * right.value : (left.value / right.value) * scale,
        factor: !times && left.factor !== null && right.factor !== null ? null : (left.factor ?? right.factor),
      };
    }
  };
  const sum = (): Term => {
    let left = product();
    for (;;) {
      const sign = take('+') ? 1 : take('-') ? -1 : 0;
      if (sign === 0) return left;
      const right = product();
      const factor = left.factor ?? right.factor;
      // A bare number beside one with a unit is in the field's own.
      const si = (t: Term): number => (t.factor === null && factor !== null ? t.value * shown : t.value);
      left = { value: si(left) + sign * si(right), factor };
    }
  };
  try {
    source = withoutCommas(text.trim());
    const result = sum();
    space();
    if (at < source.length) throw new Mistake(`"${text}" is not a number: "${source.slice(at)}" is too much`);
    if (!Number.isFinite(result.value)) return { ok: false, message: `"${text}" is not a finite number` };
    return { ok: true, value: result.value, bare: result.factor === null };
  } catch (error) {
    if (error instanceof Mistake) return { ok: false, message: error.message };
    throw error;
  }
}
