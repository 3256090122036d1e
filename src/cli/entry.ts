import { main } from './main';

process.exitCode = await main(process.argv.slice(2));
// Helper threads may still be winding down; what was written is waited for (a pipe takes 64 kB at a time), nothing else is left.
process.stdout.write('', () => {
  process.stderr.write('', () => {
    process.exit();
  });
});
