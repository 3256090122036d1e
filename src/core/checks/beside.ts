import { countOfBounds, defaultLimit, meets, planOfBounds, settingsOfBounds } from '#core/shot';
import type { Check, CheckInput, Finding } from './finding';

/** Two bounds that share room: what is in both is computed twice, and seen twice. */
export const overlappingBounds: Check = {
  id: 'bounds-overlap',
  find({ settings }) {
    const { beside, limit } = settings.bounds;
    const all = [{ name: 'The first bounds', limit: limit ?? defaultLimit(settings) }, ...beside];
    return all.flatMap((a, n) =>
      all.slice(n + 1).flatMap((b, m): Finding[] => {
        if (!meets(a.limit, b.limit)) return [];
        return [
          {
            id: `bounds-overlap:${String(n)}-${String(n + 1 + m)}`,
            group: 'bounds',
            severity: 'warning',
            title: `${a.name} and ${b.name} overlap`,
            text: 'Each computes by itself: what is in both is computed twice and seen twice, and nothing passes between them. Pull the boxes apart, or take one away.',
            frames: null,
            remedies: [{ title: `${b.name} taken away`, edits: [{ path: 'bounds.beside', value: beside.filter((o) => o !== b) }] }],
          },
        ];
      }),
    );
  },
};

/** Each bounds as if it were a shot of its own; what is said of more than one of them alike is said once. */
export function eachBounds(input: CheckInput, find: (input: CheckInput) => Finding[]): Finding[] {
  const count = countOfBounds(input.settings);
  if (count === 1) return find(input);
  const said = new Set<string>();
  return Array.from({ length: count }, (_v, n) => {
    const found = find({
      ...input,
      settings: settingsOfBounds(input.shot, input.settings, n) as CheckInput['settings'],
      plan: planOfBounds(input.plan, n),
      reports: input.reports.map((r) => r.parts?.[n] ?? r),
      // Of the whole shot: asked once.
      prediction: n === 0 ? input.prediction : null,
    });
    const fresh = found.filter((f) => !said.has(`${f.id} ${f.title}`));
    for (const f of fresh) said.add(`${f.id} ${f.title}`);
    return n === 0 ? fresh : fresh.map((f) => ofBounds(f, n, input.settings.bounds.beside[n - 1]?.name ?? ''));
  }).flat();
}

/** What is said of one of the bounds beside, with remedies where its own settings are. */
function ofBounds(f: Finding, n: number, name: string): Finding {
  const place = `bounds.beside[${String(n - 1)}]`;
  const own: Readonly<Record<string, string>> = { 'detail.voxelSize': `${place}.voxelSize`, 'bounds.limit': `${place}.limit` };
  return {
    ...f,
    id: `${f.id}@${String(n)}`,
    title: `${name}: ${f.title}`,
    remedies: f.remedies.map((r) => ({ ...r, edits: r.edits.map((e) => ({ ...e, path: own[e.path] ?? e.path })) })),
  };
}
