import { type ChildProcess, spawn } from 'node:child_process';
import { readFileSync } from 'node:fs';

export interface ServerProcess {
  readonly address: string;
  readonly child: ChildProcess;
  stop: (signal?: NodeJS.Signals) => Promise<void>;
}

/**
 * Starts the built server and waits for the line that says where it is. With one thread: a second one would stand in the way of the browser and of the
 * tests that run beside.
 */
export async function startServer(env: Record<string, string>): Promise<ServerProcess> {
  const child = spawn(process.execPath, ['server.mjs'], {
    env: { ...process.env, RUDDLE_THREADS: '1', ...env },
    stdio: ['ignore', 'pipe', 'inherit'],
  });
  const address = await new Promise<string>((resolve, reject) => {
    let text = '';
    child.stdout.on('data', (chunk: Buffer) => {
      text += chunk.toString();
      const found = /Ruddle is at (http:\S+)/.exec(text);
      if (found?.[1]) resolve(found[1]);
    });
    child.on('exit', (code) => {
      reject(new Error(`the server ended with ${String(code)}`));
    });
  });
  return {
    address,
    child,
    stop: (signal = 'SIGTERM') =>
      new Promise((resolve) => {
        if (child.exitCode !== null || child.signalCode !== null) resolve();
        else {
          child.on('exit', () => {
            resolve();
          });
          child.kill(signal);
        }
      }),
  };
}

/** What the thread of a process that answers has used of its processor, seconds: unlike a clock it does not tell how busy the machine is with other things. */
export function processorSecondsOf(pid: number): number {
  const fields = readFileSync(`/proc/${String(pid)}/task/${String(pid)}/stat`, 'utf8')
    .replace(/^.*\) /, '')
    .split(' ');
  return (Number(fields[11]) + Number(fields[12])) / 100;
}

/** What all threads of a process have used, seconds; null when it has ended. */
export function allProcessorSecondsOf(pid: number): number | null {
  try {
    const fields = readFileSync(`/proc/${String(pid)}/stat`, 'utf8')
      .replace(/^.*\) /, '')
      .split(' ');
    return fields[0] === 'Z' ? null : (Number(fields[11]) + Number(fields[12])) / 100;
  } catch {
    return null;
  }
}
