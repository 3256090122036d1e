import { readFile } from 'node:fs/promises';
import { parseArgs } from 'node:util';
import { RuddleError } from '#core/errors';
import { type GridSummary, type PlySummary, readVdb, summarize, summarizePly } from '#core/formats';
import type { Command } from './command';
import { EXIT, UsageError } from './exit';

const HELP = `Prints what is in a .vdb file, or in a .ply file of particles.

Usage: ruddle inspect FILE [--json]

Of each grid: type, class, voxel size, transform, active voxels, their box, minimum, maximum and sum (vectors: of their length; the
sum by component). Of particles: how many, and of each property type, minimum, maximum and mean, in the file's own units.`;

const list = (v: readonly number[]): string => v.map((n) => Number(n.toPrecision(7))).join(' ');

function show(g: GridSummary): string {
  const lines: [string, string][] = [
    ['type', `${g.type}${g.half ? ', half floats' : ''}`],
    ['class', g.class],
    ['voxel size', g.voxelSize ? list(g.voxelSize) : 'not a plain scale'],
    ['transform', g.transform ? `${g.transform.map}: scale ${list(g.transform.scale)}, translation ${list(g.transform.translation)}` : '-'],
    ...(g.read ? [] : ([['values', 'not read: this type of grid is not known']] as [string, string][])),
    ['active voxels', g.read ? String(g.activeVoxels) : 'not known'],
    ['box', g.box ? `${list(g.box.min)} to ${list(g.box.max)}` : g.read ? 'empty' : 'not known'],
    ['minimum', g.minimum === null ? '-' : list([g.minimum])],
    ['maximum', g.maximum === null ? '-' : list([g.maximum])],
    ['sum', list(g.sum)],
    ['background', list(g.background)],
  ];
  return `${g.name}\n${lines.map(([k, v]) => `  ${k.padEnd(14)} ${v}`).join('\n')}`;
}

function showPoints({ format, count, properties }: PlySummary): string {
  const width = Math.max(...properties.map((p) => p.name.length)) + 2;
  const lines = properties.map(({ name, type, minimum, maximum, mean, broken }) => {
    const values =
      minimum === null || maximum === null || mean === null ? '-' : `${list([minimum])} to ${list([maximum])}, mean ${list([mean])}`;
    return `  ${name.padEnd(width)}${type.padEnd(8)}${values}${broken > 0 ? `, not finite in ${String(broken)}` : ''}`;
  });
  return [`${String(count)} particles, ${format.replaceAll('_', ' ')}`, ...lines].join('\n');
}

export const inspectCommand: Command = {
  summary: 'prints what is in a .vdb or .ply file',
  help: HELP,
  async run(args) {
    const { values, positionals } = parseArgs({
      args: [...args],
      allowPositionals: true,
      options: { json: { type: 'boolean', default: false } },
    });
    const file = positionals[0];
    if (file === undefined || positionals.length > 1) throw new UsageError('Name one file: ruddle inspect FILE');
    const bytes = await readFile(file).catch((cause: unknown) => {
      throw new RuddleError('not-found', `There is no file ${file} that can be read.`, { what: file }, cause);
    });
    if (String.fromCharCode(...bytes.subarray(0, 3)) === 'ply') {
      const points = summarizePly(bytes, file);
      console.log(values.json ? JSON.stringify(points, null, 1) : showPoints(points));
      return EXIT.done;
    }
    const vdb = readVdb(bytes, file);
    const grids = vdb.grids.map(summarize);
    if (values.json) console.log(JSON.stringify({ version: vdb.version, library: vdb.library, grids }, null, 1));
    else console.log(grids.map(show).join('\n\n'));
    return EXIT.done;
  },
};
