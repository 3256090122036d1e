import { definitionOf } from '#core/passes';
import {
  type FollowerKind,
  type PassSettings,
  type Settings,
  SOLVE,
  followersOf,
  inputsOf,
  passSchema,
  withFollowers,
  withInput,
} from '#core/shot';

/** The first name that no pass has: "Particles", "Particles 2". */
function freeName(title: string, taken: readonly string[]): string {
  for (let n = 1; ; n++) {
    const name = n === 1 ? title : `${title} ${String(n)}`;
    if (!taken.includes(name)) return name;
  }
}

const idOf = (name: string): string => name.toLowerCase().replace(/[^a-z0-9]+/g, '-');

/** What a new pass reads: the solve, where its kind can; else the one that was looked at, else the last of those that it can read. */
function readBy(accepts: readonly string[], passes: readonly PassSettings[], looked: string): string {
  const fits = (p: PassSettings): boolean => accepts.includes(definitionOf(p.kind).output);
  if (accepts.includes('vdb')) return SOLVE;
  return (passes.find((p) => p.id === looked && fits(p)) ?? passes.findLast(fits))?.id ?? SOLVE;
}

/** The passes with one more at the end, and its id. It reads the solve, or what was looked at where its kind cannot read that. */
export function withPass(
  passes: readonly PassSettings[],
  kind: FollowerKind,
  looked: string,
): { readonly passes: PassSettings[]; readonly id: string } {
  const { title, accepts } = definitionOf(kind);
  const name = freeName(
    title,
    passes.map((p) => p.name),
  );
  const ids = new Set(passes.map((p) => p.id));
  let id = idOf(name);
  for (let n = 2; ids.has(id) || id === SOLVE; n++) id = `${idOf(name)}-${String(n)}`;
  return { passes: [...passes, passSchema.parse({ id, kind, name, input: { pass: readBy(accepts, passes, looked) } })], id };
}

/** Without a pass; what read it reads what it read. */
export function withoutPass(passes: readonly PassSettings[], id: string): PassSettings[] {
  const gone = passes.find((p) => p.id === id);
  return passes
    .filter((p) => p.id !== id)
    .map((p) =>
      inputsOf(p).reduce(
        (own, { role, input }) => (gone && input.pass === id ? withInput(own, role, { pass: gone.input.pass, run: null }) : own),
        p,
      ),
    );
}

/** A pass at another place; null: it may not stand before what it reads, or behind what reads it. */
export function movedPass(passes: readonly PassSettings[], from: number, to: number): PassSettings[] | null {
  if (from === to || from < 0 || to < 0 || from >= passes.length || to >= passes.length) return null;
  const next = [...passes];
  const [taken] = next.splice(from, 1);
  if (!taken) return null;
  next.splice(to, 0, taken);
  const before = new Set([SOLVE]);
  for (const p of next) {
    if (inputsOf(p).some(({ input }) => !before.has(input.pass))) return null;
    before.add(p.id);
  }
  return next;
}

/** One pass changed. */
export const changePass = (settings: Settings, id: string, change: (pass: PassSettings) => PassSettings): Settings =>
  withFollowers(
    settings,
    followersOf(settings).map((p) => (p.id === id ? change(p) : p)),
  );
