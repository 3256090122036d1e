import { basename, extname, join, resolve } from 'node:path';
import { parseArgs } from 'node:util';
import { RuddleError } from '#core/errors';
import { formatBytes } from '#core/units';
import { DiskGuard, claimExport, readBytes, readWritten, writeWhole } from '#server/cache';
import type { Command } from './command';
import { EXIT, UsageError } from './exit';
import { framesOf } from './frames';
import { recordedIn } from './recorded';

const HELP = `Copies the frames of a run into a folder under plain numbered names, for other programs: no previews, no states.

Usage: ruddle export FOLDER --out DIR [--name NAME] [--frames A-B] [--overwrite DIR] [--json]

  --out DIR      where to (made when it is not there)
  --name NAME    NAME.NNNN.vdb, and NAME-2.NNNN.vdb of bounds beside (the name of the pass)
  --frames A-B   only these (all that are there)
  --overwrite DIR  may replace files in DIR: a folder that has a file of one of these names, or another run, is refused otherwise
  --json         { files: [names], bytes }

Each file is held against its checksum on the way: with a damaged or missing one nothing more is copied, and it ends with 3.`;

/** `solve-2.0007.vdb` under another name: `ash-2.0007.vdb`. */
const renamed = (file: string, name: string | undefined): string =>
  name === undefined ? file : file.replace(/^[a-z]+(?=(?:-\d+)?\.-?\d+\.)/, name);

export const exportCommand: Command = {
  summary: 'copies the frames of a run under plain numbered names',
  help: HELP,
  async run(args) {
    const { values, positionals } = parseArgs({
      args: [...args],
      allowPositionals: true,
      options: {
        out: { type: 'string' },
        name: { type: 'string' },
        frames: { type: 'string' },
        overwrite: { type: 'string', multiple: true, default: [] },
        json: { type: 'boolean', default: false },
      },
    });
    const { folder, record } = await recordedIn(positionals, 'ruddle export FOLDER --out DIR');
    if (values.out === undefined) throw new UsageError('Say where the files go: --out DIR');
    const { name } = values;
    if (name !== undefined && !/^[\w-]+$/.test(name)) throw new UsageError(`--name is ${name}; it can have letters, digits, - and _.`);
    const [first, last] = framesOf(values.frames) ?? [-Infinity, Infinity];
    const out = resolve(values.out);
    const overwrite = values.overwrite.map((o) => resolve(o));
    const files = record.frames
      .filter((f) => f.frame >= first && f.frame <= last)
      .flatMap((f) => f.files.filter((w) => basename(w.file) === w.file && extname(w.file) !== ''));
    if (files.length === 0)
      throw new RuddleError('refused', 'There is nothing to export: no frame of this range is there.', { reason: 'empty' });
    const targets = files.map((f) => join(out, renamed(f.file, name)));
    // What a kind says of its frames for other programs goes along.
    const index = `${record.plan.pass}.json`;
    const note = record.plan.pass === 'surface' ? join(out, name === undefined ? index : `${name}.json`) : null;
    await claimExport(out, note === null ? targets : [...targets, note], folder, overwrite);
    const bytes = files.reduce((n, f) => n + f.bytes, 0);
    await new DiskGuard(out).check(bytes);
    for (const [n, file] of files.entries()) await writeWhole(targets[n] ?? '', await readWritten(folder, file));
    if (note !== null) await writeWhole(note, await readBytes(join(folder, index)));
    if (values.json) console.log(JSON.stringify({ files: targets.map((t) => basename(t)), bytes }));
    else console.log(`${String(files.length)} files, ${formatBytes(bytes)}: ${out}`);
    return EXIT.done;
  },
};
