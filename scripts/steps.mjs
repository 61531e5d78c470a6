import { spawn } from 'node:child_process';

const started = Date.now();

/** Prints a step with the seconds since the start, so that a long one is seen to be under way. */
export function step(text) {
  process.stdout.write(`[${String(Math.round((Date.now() - started) / 1000)).padStart(4)} s] ${text}\n`);
}

/** Ends with a message for a person. */
export function fail(text) {
  process.stderr.write(`\n${text}\n`);
  process.exit(1);
}

/** Runs a command to its end; its output is shown (`inherit`) or kept. Rejects with the kept output when it fails. */
export function run(command, args, options = {}) {
  const { quiet = false, ...rest } = options;
  return new Promise((resolve, reject) => {
    const child = spawn(command, args, { stdio: quiet ? ['ignore', 'pipe', 'pipe'] : ['ignore', 'inherit', 'inherit'], ...rest });
    let output = '';
    child.stdout?.on('data', (chunk) => (output += chunk));
    child.stderr?.on('data', (chunk) => (output += chunk));
    child.on('error', reject);
    child.on('close', (code) =>
      code === 0 ? resolve(output) : reject(new Error(`${command} ${args.join(' ')} ended with ${code}\n${output.slice(-4000)}`)),
    );
  });
}
