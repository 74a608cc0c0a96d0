// `npm run attack`: starts an instance and tries everything that must not be possible, each attempt in a line.
// What is quick of it runs with all other tests.
process.env.VAQUERO_ATTACK = 'whole';
process.argv.push('tests/attack.test.ts');
await import('./test.mjs');
