import { type IdentityProvider, startIdentityProvider } from '@vaquero/standins';
import { inBrowser } from './in-browser.ts';

/** Where people of the harbour office sign in: a small provider of OpenID Connect in the demo's own process. */
export interface HarbourOffice {
  readonly environment: Readonly<Record<string, string>>;
  readonly provider: IdentityProvider;
}

const people = [
  { subject: 'office-31', shownAs: 'Milo Farrow' },
  { subject: 'office-32', shownAs: 'Runa Skell' },
];

/** Opens it on a port of loopback; null where that port is in use: then everybody signs in with name and password. */
export async function openHarbourOffice(port: number): Promise<HarbourOffice | null> {
  const [client, secret] = ['vaquero', crypto.randomUUID()];
  const provider = await startIdentityProvider({ client, secret, people, port }).catch(
    (error: NodeJS.ErrnoException) => {
      if (error.code === 'EADDRINUSE') return null;
      throw error;
    },
  );
  if (provider === null) return null;
  return {
    provider,
    environment: {
      VAQUERO_ELSEWHERE_ISSUER: provider.issuer,
      VAQUERO_ELSEWHERE_CLIENT: client,
      VAQUERO_ELSEWHERE_SECRET: secret,
      VAQUERO_ELSEWHERE_CALLED: 'the harbour office',
    },
  };
}

/** Milo joins who he is there, as he would in a browser; once is enough. */
export async function joinHarbourOffice(
  origin: string,
  who: { readonly name: string; readonly shownAs: string; readonly password: string },
): Promise<void> {
  const call = inBrowser(origin);
  const me = await call('/api/sign-in', { name: who.name, password: who.password });
  if (me.elsewhereSince === null) {
    const { address } = await call('/api/me/elsewhere', {});
    const page = await (await fetch(String(address))).text();
    const href = new RegExp(`<a href="([^"]+)">${who.shownAs}</a>`).exec(page)?.[1] ?? '';
    const { search } = new URL(href.replaceAll('&amp;', '&'));
    await call('/api/sign-in/elsewhere/answered', { search });
  }
  await call('/api/sign-out', {});
}
