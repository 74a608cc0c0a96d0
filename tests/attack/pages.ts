import { openBrowser } from '../../tools/browser.mjs';
import { addOperator, tomas } from '../support/people.ts';
import { type Attack, type Attempt, judge } from './attempt.ts';

const attack = (console_: string): string => `<!doctype html><title>x</title><script>
window.results = {};
const say = (name, value) => { window.results[name] = String(value).slice(0, 200); };
window.done = (async () => {
  say('cookies', document.cookie || 'none');
  for (const path of ['/api/me', '/api/projects', '/api/tokens'])
    await fetch('${console_}' + path, { credentials: 'include' }).then(async (r) => say('reading ' + path, await r.text()), () => say('reading ' + path, 'refused'));
  await fetch('${console_}/api/projects', { method: 'POST', credentials: 'include', headers: { 'content-type': 'text/plain' }, body: '{"name":"stolen","repository":{"kind":"hosted"}}' }).then(() => say('writing', 'answered'), () => say('writing', 'refused'));
  await fetch('${console_}/api/projects', { method: 'POST', mode: 'no-cors', credentials: 'include', body: '{"name":"stolen","repository":{"kind":"hosted"}}' }).then((r) => say('writing blindly', r.type), () => say('writing blindly', 'refused'));
  await new Promise((go) => { const f = document.createElement('iframe'); f.src = '${console_}/'; f.onload = () => { try { say('a frame', f.contentDocument ? 'read' : 'closed'); } catch { say('a frame', 'closed'); } go(); }; f.onerror = () => { say('a frame', 'closed'); go(); }; document.body.append(f); setTimeout(go, 3000); });
  await navigator.serviceWorker.register('${console_}/sw.js').then(() => say('a worker for the console', 'made'), () => say('a worker for the console', 'refused'));
  await navigator.serviceWorker.register('/sw.js', { scope: '/../' }).then((r) => say('a worker beyond its site', r.scope), () => say('a worker beyond its site', 'refused'));
  const opened = window.open('${console_}/', 'c');
  await new Promise((go) => setTimeout(go, 1000));
  try { say('a window', opened && opened.document ? opened.document.title : 'closed'); } catch { say('a window', 'closed'); }
  try { opened?.postMessage({ type: 'sign-out' }, '*'); say('a message', 'sent'); } catch { say('a message', 'refused'); }
  document.cookie = '__Host-vaquero=planted; path=/; secure; domain=localhost';
  document.cookie = '__Host-vaquero=planted; path=/';
  say('planting a cookie', document.cookie || 'none');
})();
</script>`;

/** An artifact's own page against the console, in a browser in which somebody is signed in there. */
export const byAPage: Attack = async ({ service, push }) => {
  await addOperator(service);
  const { state, log } = await push({
    'vaquero.yaml':
      'steps:\n  pages: {run: "mkdir -p out && cp page.html out/index.html && echo > out/sw.js"}\nserve: {site: out}\n',
    'page.html': attack(service.origin),
  });
  if (state !== 'passed')
    return [{ what: 'publishing the page', expected: 'passed', held: false, saw: log }];
  const browser = await openBrowser();
  try {
    const context = await browser.newContext();
    const signIn = await context.request.post(`${service.origin}/api/sign-in`, {
      headers: { origin: service.origin, 'vaquero-request': 'console' },
      data: { name: tomas.name, password: tomas.password },
    });
    const page = await context.newPage();
    await page.goto(`http://staging.target.localhost:${service.edgePort}/`);
    const results = await page.evaluate(async () => {
      const own = window as unknown as { done: Promise<void>; results: Record<string, string> };
      await own.done;
      return own.results;
    });
    const expected: Readonly<Record<string, RegExp>> = {
      cookies: /^none$/,
      'reading /api/me': /^refused$/,
      'reading /api/projects': /^refused$/,
      'reading /api/tokens': /^refused$/,
      writing: /^refused$/,
      'writing blindly': /^(?:refused|opaque)$/,
      'a frame': /^closed$/,
      'a worker for the console': /^refused$/,
      'a worker beyond its site': /^refused$|\/$/,
      'a window': /^closed$/,
      'planting a cookie': /^(?:none|__Host-vaquero=planted)$/,
    };
    const attempts: Attempt[] = Object.entries(expected).map(([what, pattern]) =>
      judge(`a page: ${what}`, pattern, results[what] ?? 'nothing'),
    );
    const me = await context.request.get(`${service.origin}/api/me`);
    attempts.push(
      judge(
        'a page: ending the session of who looked at it',
        /^200 200$/,
        `${signIn.status()} ${me.status()}`,
      ),
    );
    const stolen = await context.request.get(`${service.origin}/api/projects/stolen`);
    attempts.push(judge('a page: making a project', /^404$/, String(stolen.status())));
    return attempts;
  } finally {
    await browser.close();
  }
};
