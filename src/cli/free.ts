import { parseArgs } from 'node:util';
import { RuddleError } from '#core/errors';
import { formatBytes } from '#core/units';
import { freeRun } from '#server/cache';
import type { Command } from './command';
import { EXIT } from './exit';
import { recordedIn } from './recorded';

const HELP = `Removes the frames of a run; its run.json stays, with settings and reports, so that the same can be computed again.

Usage: ruddle free FOLDER [--dry-run] [--force] [--json]

  --dry-run  only says what would be freed
  --force    also a run that is being computed by its record (after a kill nobody writes that it ended)
  --json     { files, bytes }

Files in the folder that are none of the run's stay. Runs of the application are freed there: it keeps a list of its own.`;

export const freeCommand: Command = {
  summary: 'removes the frames of a run, and keeps its record',
  help: HELP,
  async run(args) {
    const { values, positionals } = parseArgs({
      args: [...args],
      allowPositionals: true,
      options: {
        'dry-run': { type: 'boolean', default: false },
        force: { type: 'boolean', default: false },
        json: { type: 'boolean', default: false },
      },
    });
    const { folder, record } = await recordedIn(positionals, 'ruddle free FOLDER');
    if (record.state === 'running' && !values.force) {
      const text = 'This run is being computed, or was killed while it was. End it first, or add --force.';
      throw new RuddleError('refused', text, { reason: 'running' });
    }
    const files = record.frames.flatMap((f) => f.files);
    const bytes = files.reduce((n, f) => n + f.bytes, 0);
    if (!values['dry-run']) await freeRun(folder, record);
    if (values.json) console.log(JSON.stringify({ files: files.length, bytes }));
    else {
      const done = values['dry-run'] ? 'would be freed' : 'freed';
      console.log(`${record.shot}, ${record.variant}: ${String(files.length)} files, ${formatBytes(bytes)} ${done}.`);
    }
    return EXIT.done;
  },
};
