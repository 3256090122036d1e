import { parseArgs } from 'node:util';
import { formatBytes } from '#core/units';
import { foreignIn, lookAtFile } from '#server/cache';
import type { Command } from './command';
import { EXIT } from './exit';
import { recordedIn } from './recorded';

const HELP = `Reads every file of a run and holds it against its checksum in run.json.

Usage: ruddle verify FOLDER [--json]

  --json  { state, files, bytes, damaged: [names], missing: [names], unreadable: [names], foreign: [names] }

Foreign files lie in the folder and are none of the run's: they are named and change nothing.

Ends with 0 when all files are as they were written, with 3 when some are damaged, missing, or
cannot be read now.`;

export const verifyCommand: Command = {
  summary: 'holds the files of a run against their checksums',
  help: HELP,
  async run(args) {
    const { values, positionals } = parseArgs({
      args: [...args],
      allowPositionals: true,
      options: { json: { type: 'boolean', default: false } },
    });
    const { folder, record } = await recordedIn(positionals, 'ruddle verify FOLDER');
    const files = record.frames.flatMap((f) => f.files);
    // Geometry of a bundle lies beside the frames; states of a run that goes on are its own too.
    const others = await foreignIn(folder, new Set(files.map((f) => f.file)));
    const foreign = others.filter((name) => !name.startsWith('geometry/') && !name.startsWith('states/'));
    const found = { damaged: [] as string[], missing: [] as string[], unreadable: [] as string[] };
    for (const file of files) {
      const damage = await lookAtFile(folder, file);
      if (damage !== null) found[damage].push(file.file);
    }
    const bytes = files.reduce((n, f) => n + f.bytes, 0);
    if (values.json) console.log(JSON.stringify({ state: record.state, files: files.length, bytes, ...found, foreign }));
    else {
      for (const name of found.damaged) console.log(`damaged  ${name}`);
      for (const name of found.missing) console.log(`missing  ${name}`);
      for (const name of found.unreadable) console.log(`unreadable  ${name}`);
      for (const name of foreign) console.log(`foreign  ${name}`);
      const frames = `${String(record.frames.length)} ${record.frames.length === 1 ? 'frame' : 'frames'}`;
      const lost = found.damaged.length + found.missing.length + found.unreadable.length;
      const verdict = lost === 0 ? 'all as they were written' : `${String(lost)} of them not as they were written`;
      console.log(
        `${record.shot}, ${record.variant}: ${record.state}, ${frames}, ${String(files.length)} files (${formatBytes(bytes)}), ${verdict}.`,
      );
    }
    return found.damaged.length + found.missing.length + found.unreadable.length === 0 ? EXIT.done : EXIT.invalid;
  },
};
