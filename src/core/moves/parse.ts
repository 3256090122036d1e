/**
 * Expressions as trees. Nothing of a text is ever run as code: it is read into these nodes, and they are evaluated by a list of what is allowed
 * (evaluate.ts). A parser of its own (precedence climbing, Pratt 1973) rather than a package: those at hand give no column for a name inside a tree,
 * and read -2^2 as 4.
 */
export type Node =
  | { readonly kind: 'number'; readonly value: number }
  /** time, frame, fps, pi, value. */
  | { readonly kind: 'variable'; readonly name: string }
  | { readonly kind: 'call'; readonly name: string; readonly args: readonly Node[]; readonly column: number }
  | { readonly kind: 'binary'; readonly op: BinaryOp; readonly left: Node; readonly right: Node; readonly column: number }
  | { readonly kind: 'minus'; readonly of: Node }
  /** Another setting, by its path: `matter.lift`, `sources[0].heat`. */
  | { readonly kind: 'setting'; readonly path: string; readonly column: number };

export type BinaryOp = '+' | '-' | '*' | '/' | '^' | '<' | '<=' | '>' | '>=' | '==' | '!=';

export type Parsed = { readonly ok: true; readonly node: Node } | { readonly ok: false; readonly column: number; readonly message: string };

export const VARIABLES = ['time', 'frame', 'fps', 'pi', 'value'] as const;

/** Names of functions with the fewest and the most arguments. */
export const FUNCTIONS: Readonly<Record<string, readonly [number, number]>> = {
  sin: [1, 1],
  cos: [1, 1],
  tan: [1, 1],
  abs: [1, 1],
  min: [2, 8],
  max: [2, 8],
  clamp: [3, 3],
  mix: [3, 3],
  smoothstep: [3, 3],
  floor: [1, 1],
  sqrt: [1, 1],
  exp: [1, 1],
  log: [1, 1],
  noise: [1, 2],
  random: [1, 2],
};

/** Longer texts and deeper brackets are refused: neither is anything that a person types. */
const LONGEST = 500;
const DEEPEST = 40;

const POWERS: Readonly<Record<BinaryOp, number>> = {
  '==': 1,
  '!=': 1,
  '<': 2,
  '<=': 2,
  '>': 2,
  '>=': 2,
  '+': 3,
  '-': 3,
  '*': 4,
  '/': 4,
  '^': 6,
};
/** Minus binds weaker than a power (-2^2 is -4) and stronger than times. */
const MINUS = 5;

class Mistake extends Error {
  constructor(
    readonly column: number,
    message: string,
  ) {
    super(message);
  }
}

/** Reads a text; columns count from 1. */
export function parseExpression(text: string): Parsed {
  try {
    if (text.length > LONGEST) throw new Mistake(LONGEST, `longer than ${String(LONGEST)} characters`);
    return { ok: true, node: new Reader(text).whole() };
  } catch (error) {
    if (error instanceof Mistake) return { ok: false, column: error.column, message: error.message };
    throw error;
  }
}

class Reader {
  #at = 0;
  #depth = 0;

  constructor(private readonly text: string) {}

  whole(): Node {
    if (this.text.trim() === '') throw new Mistake(1, 'nothing is written');
    const node = this.#expression(0);
    this.#space();
    if (this.#at < this.text.length) throw new Mistake(this.#at + 1, `"${this.text.slice(this.#at, this.#at + 12)}" is not expected here`);
    return node;
  }

  #space(): void {
    while (/\s/.test(this.text[this.#at] ?? '')) this.#at++;
  }

  #take(symbol: string): boolean {
    this.#space();
    if (!this.text.startsWith(symbol, this.#at)) return false;
    this.#at += symbol.length;
    return true;
  }

  #match(pattern: RegExp): string | null {
    this.#space();
    const sticky = new RegExp(pattern.source, 'y');
    sticky.lastIndex = this.#at;
    const found = sticky.exec(this.text)?.[0] ?? null;
    if (found !== null) this.#at += found.length;
    return found;
  }

  #expression(power: number): Node {
    if (++this.#depth > DEEPEST) throw new Mistake(this.#at + 1, 'too many brackets inside each other');
    let left = this.#operand();
    for (;;) {
      this.#space();
      const start = this.#at;
      const column = start + 1;
      const op = this.#match(/<=|>=|==|!=|[-+*/^<>]/) as BinaryOp | null;
      if (op === null) break;
      const own = POWERS[op];
      if (own < power) {
        this.#at = start;
        break;
      }
      // Powers group from the right: 2^3^2 is 2^9.
      const right = this.#expression(op === '^' ? own : own + 1);
      left = { kind: 'binary', op, left, right, column };
    }
    this.#depth--;
    return left;
  }

  #operand(): Node {
    this.#space();
    const column = this.#at + 1;
    if (this.#take('(')) {
      const inside = this.#expression(0);
      if (!this.#take(')')) throw new Mistake(column, 'this bracket is not closed');
      return inside;
    }
    if (this.#take('-')) return { kind: 'minus', of: this.#expression(MINUS) };
    if (this.#take('+')) return this.#expression(MINUS);
    const number = this.#match(/(?:\d+\.?\d*|\.\d+)(?:[eE][+-]?\d+)?/);
    if (number !== null) return { kind: 'number', value: Number(number) };
    const name = this.#match(/[A-Za-z_][A-Za-z0-9_]*(?:\[\d+\]|\.[A-Za-z_][A-Za-z0-9_]*)*/);
    if (name === null) {
      const rest = this.text.slice(this.#at).trim();
      throw new Mistake(
        column,
        rest === '' ? 'a number or a name is missing at the end' : `"${rest.slice(0, 12)}" is not a number or a name`,
      );
    }
    return this.#named(name, column);
  }

  #named(name: string, column: number): Node {
    if (this.#take('(')) {
      const arity = FUNCTIONS[name];
      if (!arity || !Object.hasOwn(FUNCTIONS, name)) throw new Mistake(column, `there is no function "${name}"`);
      const args = [this.#expression(0)];
      while (this.#take(',')) args.push(this.#expression(0));
      if (!this.#take(')')) throw new Mistake(this.#at + 1, `the brackets of ${name} are not closed`);
      const [least, most] = arity;
      if (args.length < least || args.length > most) {
        const wanted = least === most ? String(least) : `${String(least)} to ${String(most)}`;
        throw new Mistake(column, `${name} takes ${wanted} numbers, not ${String(args.length)}`);
      }
      return { kind: 'call', name, args, column };
    }
    if ((VARIABLES as readonly string[]).includes(name)) return { kind: 'variable', name };
    if (/[.[]/.test(name)) return { kind: 'setting', path: name, column };
    const hint = Object.hasOwn(FUNCTIONS, name) ? `; it is a function and wants brackets` : '';
    throw new Mistake(column, `"${name}" is not known${hint}`);
  }
}

/** Paths of the other settings that an expression reads, each once. */
export function settingsRead(node: Node): readonly { readonly path: string; readonly column: number }[] {
  const found = new Map<string, number>();
  const visit = (n: Node): void => {
    switch (n.kind) {
      case 'setting':
        if (!found.has(n.path)) found.set(n.path, n.column);
        return;
      case 'call':
        n.args.forEach(visit);
        return;
      case 'binary':
        visit(n.left);
        visit(n.right);
        return;
      case 'minus':
        visit(n.of);
        return;
      case 'number':
      case 'variable':
    }
  };
  visit(node);
  return [...found].map(([path, column]) => ({ path, column }));
}
