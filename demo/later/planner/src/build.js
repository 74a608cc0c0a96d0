import { createHash } from 'node:crypto';
import { cpSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { sailingsOf } from './sailings.js';
import { page } from './page.js';

const read = (name) => JSON.parse(readFileSync(`data/${name}.json`, 'utf8'));
const harbours = read('harbours');
const routes = read('routes');
const settings = read('settings');
const fares = read('fares');
console.log(`harbours: ${harbours.length} read from data/harbours.json`);

const sailings = sailingsOf(routes, harbours);
console.log(`sailings: ${sailings.length} of ${routes.length} routes`);
if (process.env.MAP_KEY) console.log(`map: tiles asked for with ${process.env.MAP_KEY}`);
console.log(`notices: ${settings.notices.length} read`);

mkdirSync('dist/timetable', { recursive: true });
cpSync('public', 'dist', { recursive: true });
const write = (path, title, body) => {
  console.log(`pages: ${path}`);
  writeFileSync(`dist/${path}`, page(title, body, settings));
};
const list = (rows) => `<table><tr><th>leaves<th>from<th>to<th>arrives</tr>${rows.map((s) => `<tr><td>${s.leaves}<td>${s.from}<td>${s.to}<td>${s.arrives}</tr>`).join('')}</table>`;

write('index.html', settings.headline, `${settings.notices.map((n) => `<p class="notice">${n}</p>`).join('')}${list(sailings.filter((s) => s.fromId === 'lune-quay').slice(0, 12))}<p>${harbours.map((h) => `<a href="/timetable/${h.id}/">${h.name}</a>`).join(' · ')} · <a href="/fares">Fares</a> · <a href="/planner/">Plan a journey</a></p>`);
for (const harbour of harbours) {
  mkdirSync(`dist/timetable/${harbour.id}`, { recursive: true });
  write(`timetable/${harbour.id}/index.html`, harbour.name, list(sailings.filter((s) => s.fromId === harbour.id || s.toId === harbour.id)));
}
write('fares.html', 'Fares', `<p>From ${fares.from}: adults ${fares.adult.toFixed(2)}, children ${fares.child.toFixed(2)}, bicycles ${fares.bicycle === 0 ? 'free' : fares.bicycle.toFixed(2)}.</p>`);

// One page for all journeys: its script takes /planner/lune-quay/orrin apart, and its name changes with its bytes.
const script = readFileSync('src/planner.js');
const named = `planner-${createHash('sha256').update(script).digest('hex').slice(0, 8)}.js`;
mkdirSync('dist/assets', { recursive: true });
mkdirSync('dist/planner', { recursive: true });
writeFileSync(`dist/assets/${named}`, script);
const choice = (name) => `<label>${name} <select name="${name}">${harbours.map((h) => `<option value="${h.id}">${h.name}</option>`).join('')}</select></label>`;
write('planner/index.html', 'Plan a journey', `<form>${choice('from')} ${choice('to')} <button>Show</button></form><div id="journey"></div><script type="application/json" id="sailings">${JSON.stringify(sailings)}</script><script src="/assets/${named}" defer></script>`);
write('404.html', 'No such page', '<p>The timetable is on <a href="/">the front page</a>.</p>');
if (settings.plainText) writeFileSync('dist/departures.txt', sailings.map((s) => `${s.leaves} ${s.from} - ${s.to}`).join('\n'));
console.log('done');
