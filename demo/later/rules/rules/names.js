// Every harbour that a route or a fare names must be there; said in TAP.
import { mkdirSync, readFileSync, writeFileSync } from 'node:fs';

const read = (name) => JSON.parse(readFileSync(`data/${name}.json`, 'utf8'));
const harbours = new Set(read('harbours').map((harbour) => harbour.id));
const routes = read('routes');
const lines = routes.flatMap((route, place) => {
  const unknown = [route.from, route.to].filter((id) => !harbours.has(id));
  const state = unknown.length === 0 ? 'ok' : 'not ok';
  return [
    `${state} ${place + 1} - ${route.from} to ${route.to}`,
    ...unknown.map((id) => `# no harbour is called ${id}`),
  ];
});
mkdirSync('reports', { recursive: true });
writeFileSync('reports/names.tap', ['TAP version 13', `1..${routes.length}`, ...lines, ''].join('\n'));
process.stdout.write(`${routes.length} routes looked at\n`);
process.exitCode = lines.some((line) => line.startsWith('not ok')) ? 1 : 0;
