import { mkdirSync, readFileSync, writeFileSync } from 'node:fs';

const read = (name) => JSON.parse(readFileSync(`../data/${name}.json`, 'utf8'));
const harbours = read('harbours');
const routes = read('routes');
const nameOf = (id) => harbours.find((each) => each.id === id)?.name ?? id;

const board = (title, rows) => `<!doctype html>
<html lang="en">
<meta charset="utf-8">
<meta name="viewport" content="width=device-width">
<title>${title}</title>
<style>
  body { background: #14181c; color: #f2e8c9; font: 600 2rem/1.5 system-ui, sans-serif; margin: 2rem; }
  h1 { font-size: 2.4rem; margin: 0 0 1rem; }
  li { list-style: none; border-top: 1px solid #39424b; }
  a { color: inherit; }
</style>
<h1>${title}</h1>
<ul>${rows.map((row) => `<li>${row}`).join('')}</ul>
</html>
`;

mkdirSync('out', { recursive: true });
for (const harbour of harbours) {
  const leaving = routes.filter(({ from }) => from === harbour.id);
  const rows = leaving.map(({ to, first, every }) => `${nameOf(to)}, every ${every} min from ${first}`);
  console.log(`board: ${harbour.name}, ${rows.length} routes, ${harbour.berths} berths`);
  writeFileSync(`out/${harbour.id}.html`, board(`${harbour.name}, ${harbour.berths === 1 ? 'one berth' : `${harbour.berths} berths`}`, rows.length > 0 ? rows : ['Nothing leaves here today']));
}
writeFileSync('out/index.html', board('Quay boards', harbours.map(({ id, name }) => `<a href="/${id}.html">${name}</a>`)));
