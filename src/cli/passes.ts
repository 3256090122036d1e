import { readFile } from 'node:fs/promises';
import { parseArgs } from 'node:util';
import { RuddleError } from '#core/errors';
import { definitionOf } from '#core/passes';
import { listFrames } from '#core/pass';
import { type InputRole, parseShotFile, followersOf, inputsOf } from '#core/shot';
import type { Command } from './command';
import { EXIT, UsageError } from './exit';
import { chainOf } from './run-pass';
import { pickVariant } from './variant';

const HELP = `Lists the passes of a shot that follow its solve: what each reads, how many frames it has, and why it cannot be computed.

Usage: ruddle passes SHOT.json [--variant NAME] [--rung test|final] [--json]

  --variant NAME  which variant of the shot (the first one)
  --rung RUNG     test or final (final)
  --json          a list of { id, kind, name, on, reads, rung, key, frames, problem }

Ends with 3 when one of them cannot be computed.`;

export const passesCommand: Command = {
  summary: 'lists the passes of a shot',
  help: HELP,
  async run(args) {
    const { values, positionals } = parseArgs({
      args: [...args],
      allowPositionals: true,
      options: { variant: { type: 'string' }, rung: { type: 'string', default: 'final' }, json: { type: 'boolean', default: false } },
    });
    const [file] = positionals;
    if (file === undefined || positionals.length > 1) throw new UsageError('Name one shot file: ruddle passes SHOT.json');
    const { rung } = values;
    if (rung !== 'test' && rung !== 'final') throw new UsageError(`--rung is ${rung}; it can be test or final.`);
    const text = await readFile(file, 'utf8').catch((cause: unknown) => {
      throw new RuddleError('not-found', `There is no file ${file} that can be read.`, { what: file }, cause);
    });
    const shot = parseShotFile(text, file);
    const variant = pickVariant(shot, values.variant ?? null);
    const chain = await chainOf(shot, variant);
    const list = followersOf(variant.settings).map((p) => {
      const { plan, key, inputs, problem } = chain.entry(p.id, rung);
      const found = (role: InputRole): string | undefined => {
        const input = inputs.find((i) => i.role === role);
        return input && `${input.pass}-${input.rung}`;
      };
      const reads = inputsOf(p)
        .map(({ role, input }) => input.folder ?? found(role) ?? input.pass)
        .join(' and ');
      return {
        id: p.id,
        kind: p.kind,
        name: p.name,
        on: p.enabled,
        reads,
        rung,
        key,
        frames: plan ? listFrames(plan.frames).length : 0,
        problem,
      };
    });
    if (values.json) console.log(JSON.stringify(list));
    else if (list.length === 0) console.log(`${shot.name}, ${variant.name}: no passes but the solve.`);
    else
      for (const p of list) {
        const what =
          p.problem ?? `${definitionOf(p.kind).title} of ${p.reads}, ${String(p.frames)} frames, key ${(p.key ?? '').slice(0, 12)}`;
        console.log(`${p.id.padEnd(16)} ${what}${p.on ? '' : ' (off)'}`);
      }
    return list.some((p) => p.problem !== null) ? EXIT.invalid : EXIT.done;
  },
};
