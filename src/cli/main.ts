import { commands } from './commands';
import { EXIT, UsageError, reportError } from './exit';

const HELP = `Ruddle computes smoke for effects shots.

Usage: ruddle <command> [options]

Commands:
${Object.entries(commands)
  .map(([name, c]) => `  ${name.padEnd(9)} ${c.summary}`)
  .join('\n')}

\`ruddle <command> --help\` says more.

Exit codes: 0 done, 1 a defect in Ruddle, 2 wrong usage, 3 a file that is not valid, 4 refused before it began (memory, disk,
a folder that cannot be written), 5 ended early (frames that are written are whole), 130 interrupted.`;

/** Runs the command line; resolves to the exit code. */
export async function main(args: readonly string[]): Promise<number> {
  const [name, ...rest] = args;
  if (name === undefined || name === '--help' || name === '-h' || name === 'help') {
    console.log(HELP);
    return name === undefined ? EXIT.usage : EXIT.done;
  }
  const command = Object.hasOwn(commands, name) ? commands[name] : undefined;
  try {
    if (!command) throw new UsageError(`There is no command "${name}". See ruddle --help.`);
    if (rest.includes('--help') || rest.includes('-h')) {
      console.log(command.help);
      return EXIT.done;
    }
    return await command.run(rest);
  } catch (error) {
    return reportError(error);
  }
}
