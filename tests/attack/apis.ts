import { makeLog, readApiConfig, startApi } from '@vaquero/service';
import { freePort } from '../support/place.ts';
import { type Attack, type Attempt, judge } from './attempt.ts';

const migrationsDirectory = new URL('../../packages/service/migrations', import.meta.url).pathname;

/** Two apis of one database, asked at once: what one has counted, kept or ended holds for the other. */
export const byTwoApis: Attack = async ({ service, builder }) => {
  const port = String(await freePort());
  const second = await startApi({
    config: readApiConfig({ ...service.environment, VAQUERO_PORT: port }),
    log: makeLog('test', 'fatal'),
    migrationsDirectory,
  });
  try {
    const both = [service.address, `http://127.0.0.1:${port}`];
    const post = (at: string, path: string, body: unknown, headers: Record<string, string> = {}) =>
      fetch(`${at}${path}`, {
        method: 'POST',
        headers: { 'content-type': 'application/json', ...headers },
        body: JSON.stringify(body),
      });
    const attempts: Attempt[] = [];
    const begun = performance.now();
    const guesses = await Promise.all(
      Array.from({ length: 30 }, (_, n) =>
        post(both[n % 2] ?? '', '/api/sign-in/token', { name: 'mona', password: 'x', token: 't' }),
      ),
    );
    const checked = guesses.filter(({ status }) => status === 401).length;
    // A second after the fifth another one is taken, and two seconds after that: on a slow machine they come to it.
    const later = Math.floor(Math.log2(1 + (performance.now() - begun) / 1000));
    const isFair = checked >= 5 && checked <= 5 + later;
    attempts.push(
      judge('two apis: twice as many guesses', /^fair/, isFair ? 'fair' : String(checked)),
    );
    const known = { authorization: `Bearer ${builder.secret}`, 'idempotency-key': 'two-apis' };
    const made = await Promise.all(
      Array.from({ length: 10 }, (_, n) =>
        post(both[n % 2] ?? '', '/api/tokens', { name: 'one' }, known),
      ),
    );
    const shown = made.filter(({ status }) => status === 201).length;
    attempts.push(judge('two apis: one call carried out twice', /^1$/, String(shown)));
    const token = (await made.find(({ status }) => status === 201)?.json()) as {
      id: string;
      secret: string;
    };
    const ended = await fetch(`${both[1]}/api/tokens/${token.id}`, {
      method: 'DELETE',
      headers: { authorization: `Bearer ${builder.secret}` },
    });
    const after = await fetch(`${both[0]}/api/me`, {
      headers: { authorization: `Bearer ${token.secret}` },
    });
    attempts.push(
      judge(
        'two apis: a token that the other took back',
        /^204 401$/,
        `${ended.status} ${after.status}`,
      ),
    );
    return attempts;
  } finally {
    await second.stop();
  }
};
