import { main } from './main';

process.exitCode = await main(process.argv.slice(2));
// Helper threads may still be winding down; nothing is left to wait for.
process.exit();
