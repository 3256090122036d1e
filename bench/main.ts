import { cpus } from 'node:os';
import { parseArgs } from 'node:util';
import { features } from './features';
import { iterations, kernels, libraries } from './kernels';
import { liquid } from './liquid';
import { surface } from './surface';
import { liquidPredictions } from './liquid-predictions';
import { page } from './page';
import { fitting, predictions } from './predictions';
import { type Row, type Section, held } from './section';
import { files, sizes, sparse, threads } from './solver';
import { passPredictions } from './pass-predictions';
import { refill } from './refill';
import { upscale } from './upscale';

const SECTIONS: readonly Section[] = [
  kernels,
  iterations,
  libraries,
  threads,
  sizes,
  sparse,
  features,
  upscale,
  refill,
  liquid,
  surface,
  files,
  page,
  predictions,
  passPredictions,
  liquidPredictions,
];
/** Only by name. */
const MORE: readonly Section[] = [fitting];
const HELP = `npm run bench -- [--json] [--quick] [--only ${[...SECTIONS, ...MORE].map((s) => s.id).join(',')}]

Figures of this machine beside what is asked of them (docs/methods/speed.md). The exit code is 1 when one is missed.`;

const figure = (v: number): string => (Number.isInteger(v) ? String(v) : v.toPrecision(3));
const limitText = ({ limit }: Row): string =>
  limit === null ? '' : limit.most !== undefined ? `at most ${figure(limit.most)}` : `at least ${figure(limit.least ?? 0)}`;

const { values } = parseArgs({
  options: {
    json: { type: 'boolean', default: false },
    quick: { type: 'boolean', default: false },
    only: { type: 'string' },
    help: { type: 'boolean', default: false },
  },
});
if (values.help) {
  console.log(HELP);
  process.exit(0);
}
const wanted = values.only?.split(',') ?? SECTIONS.map((s) => s.id);
const unknown = wanted.filter((id) => ![...SECTIONS, ...MORE].some((s) => s.id === id));
if (unknown.length > 0) {
  console.error(`There is no section ${unknown.join(', ')}.\n\n${HELP}`);
  process.exit(2);
}
const results: { section: string; rows: Row[] }[] = [];
for (const section of [...SECTIONS, ...MORE].filter((s) => wanted.includes(s.id))) {
  if (!values.json) console.log(`\n${section.title}`);
  const say = (text: string): void => {
    console.error(`  ${text}`);
  };
  const rows = await section.run({ quick: values.quick, say });
  results.push({ section: section.id, rows });
  if (values.json) continue;
  for (const r of rows) {
    const mark = r.limit === null ? ' ' : held(r) ? '✓' : '✗';
    console.log(
      `  ${mark} ${r.name.padEnd(58)} ${figure(r.value).padStart(9)} ${r.unit.padEnd(14)} ${limitText(r)}${r.note ? `  (${r.note})` : ''}`,
    );
  }
}
if (values.json) console.log(JSON.stringify({ machine: cpus()[0]?.model ?? 'unknown', cores: cpus().length, results }, null, 2));
process.exit(results.some((s) => s.rows.some((r) => r.limit !== null && !held(r))) ? 1 : 0);
