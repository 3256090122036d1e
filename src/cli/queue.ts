import { parseArgs } from 'node:util';
import { type ErrorData, RuddleError, fromErrorData } from '#core/errors';
import { SOLVE, followersOf } from '#core/shot';
import type { AnyRunDto, ShotDto, ShotRowDto } from '#protocol';
import type { Command } from './command';
import { EXIT, UsageError } from './exit';

const HELP = `What the running application computes and what waits; or puts runs of a shot in line.

Usage: ruddle queue [--json]
       ruddle queue SHOT [--variant NAME] [--rung test|final] [--pass ID|all] [--over-budget] [--json]

SHOT is the shot's name in its address: kiln-stack.

  --server URL     where it answers (http://127.0.0.1:4820, or the port in RUDDLE_PORT)
  --variant NAME   which variant of the shot, with its draft as it is (the first one)
  --rung RUNG      test or final (final)
  --pass ID        this pass, and before it what it reads; all: the solve and every pass that is switched on, as
                   far as they are not there or on their way (the solve)
  --over-budget    also when a budget of the shot would be broken
  --json           a list of { shot, run, pass, rung, state, frames, of, why }

A night's work in one line: ruddle queue kiln-stack --pass all`;

/** Asks the application. Its refusals come back as they are. */
async function ask<T>(server: string, path: string, body?: unknown): Promise<T> {
  const answer = await fetch(new URL(`/api${path}`, server), {
    ...(body === undefined ? {} : { method: 'POST', body: JSON.stringify(body), headers: { 'content-type': 'application/json' } }),
  }).catch((cause: unknown) => {
    throw new RuddleError('refused', `Nothing answers at ${server}. Start the application: npm start`, { reason: 'no server' }, cause);
  });
  const found = (await answer.json()) as T | { readonly error: ErrorData };
  if (!answer.ok) throw fromErrorData((found as { readonly error: ErrorData }).error);
  return found as T;
}

interface Line {
  readonly shot: string;
  readonly run: number;
  readonly pass: string;
  readonly rung: string;
  readonly state: string;
  readonly frames: number;
  readonly of: number;
  /** Why it waits; null when nothing is said of it. */
  readonly why: string | null;
}

async function linesOf(server: string): Promise<Line[]> {
  const lines: Line[] = [];
  for (const row of await ask<ShotRowDto[]>(server, '/shots')) {
    if (!row.readable || !row.runs.some((r) => OPEN.has(r.state))) continue;
    const { runs, passRuns } = await ask<ShotDto>(server, `/shots/${row.id}`);
    const open = [...runs, ...passRuns].filter((r) => OPEN.has(r.state)).sort((a, b) => a.number - b.number);
    lines.push(...open.map((run) => lineOf(row.slug, run)));
  }
  return lines;
}

const OPEN: ReadonlySet<string> = new Set(['queued', 'running', 'paused']);

const lineOf = (shot: string, run: AnyRunDto): Line => ({
  shot,
  run: run.number,
  pass: run.passId,
  rung: run.rung,
  state: run.state,
  frames: run.framesDone,
  of: run.frameCount,
  why: run.error?.message ?? null,
});

export const queueCommand: Command = {
  summary: 'what the application computes and what waits; puts runs in line',
  help: HELP,
  async run(args) {
    const { values, positionals } = parseArgs({
      args: [...args],
      allowPositionals: true,
      options: {
        server: { type: 'string' },
        variant: { type: 'string' },
        rung: { type: 'string', default: 'final' },
        pass: { type: 'string', default: SOLVE },
        'over-budget': { type: 'boolean', default: false },
        json: { type: 'boolean', default: false },
      },
    });
    if (positionals.length > 1) throw new UsageError('Name one shot: ruddle queue SHOT');
    const { rung, json } = values;
    if (rung !== 'test' && rung !== 'final') throw new UsageError(`--rung is ${rung}; it can be test or final.`);
    const server = values.server ?? `http://127.0.0.1:${process.env['RUDDLE_PORT'] ?? '4820'}`;
    if (!URL.canParse(server)) throw new UsageError(`--server is ${server}; write it as http://127.0.0.1:4820.`);
    const [slug] = positionals;
    let lines: Line[];
    if (slug === undefined) lines = await linesOf(server);
    else {
      const shot = await ask<ShotDto>(server, `/shots/${encodeURIComponent(slug)}`);
      const variant = values.variant === undefined ? shot.variants[0] : shot.variants.find((v) => v.name === values.variant);
      if (!variant)
        throw new UsageError(
          `There is no variant "${String(values.variant)}"; it has ${shot.variants.map((v) => `"${v.name}"`).join(', ')}.`,
        );
      const on = followersOf(variant.draft?.settings ?? variant.settings)
        .filter((p) => p.enabled)
        .map((p) => p.id);
      lines = [];
      // A draft becomes a variant of its own with the first run: the next ones are of that.
      let { id: variantId } = variant;
      for (const pass of values.pass === 'all' ? [SOLVE, ...on] : [values.pass]) {
        const started = await ask<AnyRunDto>(server, '/runs', {
          variantId,
          rung,
          pass,
          anew: values.pass !== 'all',
          overBudget: values['over-budget'],
        });
        ({ variantId } = started);
        lines.push(lineOf(shot.slug, started));
      }
    }
    if (json) console.log(JSON.stringify(lines));
    else if (lines.length === 0) console.log('Nothing is computed and nothing waits.');
    else for (const l of lines) console.log(textOf(l));
    return EXIT.done;
  },
};

function textOf({ shot, run, pass, rung, state, frames, of, why }: Line): string {
  const left = `${shot.padEnd(20)} run ${String(run).padEnd(4)} ${pass.padEnd(12)} ${rung.padEnd(6)}`;
  return `${left} ${state.padEnd(8)} ${String(frames)} of ${String(of)} frames${why === null ? '' : `  ${why}`}`;
}
