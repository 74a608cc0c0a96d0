import { version } from '@vaquero/contracts/version';

// The whole client takes a while to load; its name does not.
if (process.argv.length === 3 && process.argv[2] === '--version')
  process.stdout.write(`vaquero ${version}\n`);
else await import('./run.ts');
