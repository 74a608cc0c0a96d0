/** Calls as the console makes them: with the cookies of whoever signs in. */
export type BrowserCall = (path: string, body?: object) => Promise<Record<string, unknown>>;

/** A browser of somebody's, as far as calls go. */
export function inBrowser(origin: string): BrowserCall {
  const cookies = new Map<string, string>();
  return async (path, body) => {
    const reply = await fetch(`${origin}${path}`, {
      method: body === undefined ? 'GET' : 'POST',
      headers: {
        origin,
        'vaquero-request': 'console',
        'content-type': 'application/json',
        cookie: [...cookies].map(([name, value]) => `${name}=${value}`).join('; '),
      },
      ...(body === undefined ? {} : { body: JSON.stringify(body) }),
    });
    for (const one of reply.headers.getSetCookie()) {
      const [name = '', value = ''] = (one.split(';', 1)[0] ?? '').split('=', 2);
      cookies.set(name, value);
    }
    if (!reply.ok) throw new Error(`${path} was answered with HTTP ${reply.status}`);
    const text = await reply.text();
    return (text === '' ? {} : JSON.parse(text)) as Record<string, unknown>;
  };
}
