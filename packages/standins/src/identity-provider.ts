import { createHash } from 'node:crypto';
import { createServer, type IncomingMessage, type ServerResponse } from 'node:http';
import type { AddressInfo } from 'node:net';
import { exportJWK, type GenerateKeyPairResult, generateKeyPair, SignJWT } from 'jose';

/** Somebody whom the provider knows. */
export interface KnownThere {
  readonly subject: string;
  readonly shownAs: string;
  /** An address of theirs, and whether it was made sure of there. */
  readonly mail?: { readonly address: string; readonly isVerified: boolean };
}

/** What it says wrongly from now on, for tests; null for nothing. */
export type Lie = 'nonce' | 'issuer' | 'key' | 'audience' | 'late' | 'early' | null;

/** A small provider of OpenID Connect: whoever comes chooses who they are. */
export interface IdentityProvider {
  readonly issuer: string;
  readonly lie: (how: Lie) => void;
  readonly stop: () => Promise<void>;
}

interface Asked {
  readonly subject: string;
  readonly mail: KnownThere['mail'];
  readonly nonce: string;
  readonly challenge: string;
  readonly redirect: string;
}

/** Starts one on loopback. Source: OpenID Connect Core 1.0 sections 3.1 and 2, Discovery 1.0 section 4, RFC 7636. */
export async function startIdentityProvider({
  client,
  secret,
  people,
  port = 0,
}: {
  readonly client: string;
  readonly secret: string;
  readonly people: readonly KnownThere[];
  readonly port?: number;
}): Promise<IdentityProvider> {
  const [own, strange] = await Promise.all([generateKeyPair('RS256'), generateKeyPair('RS256')]);
  const jwk = { ...(await exportJWK(own.publicKey)), kid: 'own', use: 'sig', alg: 'RS256' };
  const codes = new Map<string, Asked>();
  let lie: Lie = null;
  let issuer = '';

  /** Who somebody is they say themselves: that is what makes it a stand-in. */
  function choose(url: URL, res: ServerResponse): void {
    const redirect = new URL(url.searchParams.get('redirect_uri') ?? '');
    const links = people.map(({ subject, shownAs, mail }) => {
      const code = crypto.randomUUID();
      codes.set(code, {
        subject,
        mail,
        nonce: url.searchParams.get('nonce') ?? '',
        challenge: url.searchParams.get('code_challenge') ?? '',
        redirect: redirect.href,
      });
      return [shownAs, backTo(issuer, redirect, url, { code })] as const;
    });
    const list = [
      ...links,
      ['Nobody', backTo(issuer, redirect, url, { error: 'access_denied' })] as const,
    ]
      .map(([name, href]) => `<li><a href="${href.replaceAll('&', '&amp;')}">${name}</a></li>`)
      .join('');
    res.writeHead(200, { 'content-type': 'text/html; charset=utf-8' });
    res.end(
      `<!doctype html><html lang="en"><title>Who are you?</title><h1>Who are you?</h1><ul>${list}</ul>`,
    );
  }

  async function redeem(req: IncomingMessage, res: ServerResponse): Promise<void> {
    const chunks: Buffer[] = [];
    for await (const chunk of req) chunks.push(chunk as Buffer);
    const form = new URLSearchParams(Buffer.concat(chunks).toString());
    const asked = codes.get(form.get('code') ?? '');
    codes.delete(form.get('code') ?? '');
    const challenge = createHash('sha256')
      .update(form.get('code_verifier') ?? '')
      .digest('base64url');
    const isGood =
      asked !== undefined &&
      asked.challenge === challenge &&
      asked.redirect === form.get('redirect_uri') &&
      form.get('client_id') === client &&
      form.get('client_secret') === secret;
    if (!isGood) return json(res, 400, { error: 'invalid_grant' });
    json(res, 200, {
      access_token: crypto.randomUUID(),
      token_type: 'Bearer',
      expires_in: 300,
      id_token: await idToken(asked, { lie, issuer, client, own, strange }),
    });
  }

  const server = createServer((req, res) => {
    const url = new URL(req.url ?? '/', issuer);
    if (url.pathname === '/.well-known/openid-configuration')
      return json(res, 200, describe(issuer));
    if (url.pathname === '/keys') return json(res, 200, { keys: [jwk] });
    if (url.pathname === '/authorize') return choose(url, res);
    if (url.pathname === '/token') return void redeem(req, res);
    res.writeHead(404).end();
  });
  await new Promise<void>((resolve) => server.listen(port, '127.0.0.1', resolve));
  issuer = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
  return {
    issuer,
    lie: (how) => {
      lie = how;
    },
    stop: () =>
      new Promise((resolve) => {
        server.close(() => resolve());
        server.closeAllConnections();
      }),
  };
}

function json(res: ServerResponse, status: number, body: object): void {
  res.writeHead(status, { 'content-type': 'application/json', 'cache-control': 'no-store' });
  res.end(JSON.stringify(body));
}

/** What it says of itself. */
function describe(issuer: string): object {
  return {
    issuer,
    authorization_endpoint: `${issuer}/authorize`,
    token_endpoint: `${issuer}/token`,
    jwks_uri: `${issuer}/keys`,
    response_types_supported: ['code'],
    subject_types_supported: ['public'],
    id_token_signing_alg_values_supported: ['RS256'],
    token_endpoint_auth_methods_supported: ['client_secret_post'],
    code_challenge_methods_supported: ['S256'],
    authorization_response_iss_parameter_supported: true,
  };
}

interface Signing {
  readonly lie: Lie;
  readonly issuer: string;
  readonly client: string;
  readonly own: GenerateKeyPairResult;
  /** A key that it does not say to have. */
  readonly strange: GenerateKeyPairResult;
}

async function idToken(
  { subject, mail, nonce }: Asked,
  { lie, issuer, client, own, strange }: Signing,
): Promise<string> {
  const now = Math.floor(Date.now() / 1000);
  const said = mail === undefined ? {} : { email: mail.address, email_verified: mail.isVerified };
  return new SignJWT({ nonce: lie === 'nonce' ? 'another' : nonce, ...said })
    .setProtectedHeader({ alg: 'RS256', kid: 'own' })
    .setIssuer(lie === 'issuer' ? 'https://elsewhere.example' : issuer)
    .setAudience(lie === 'audience' ? 'another' : client)
    .setSubject(subject)
    .setIssuedAt(lie === 'early' ? now + 7_200 : lie === 'late' ? now - 7_200 : now)
    .setNotBefore(lie === 'early' ? now + 3_600 : 0)
    .setExpirationTime(lie === 'late' ? now - 3_600 : now + 10_800)
    .sign(lie === 'key' ? strange.privateKey : own.privateKey);
}

function backTo(
  issuer: string,
  redirect: URL,
  asked: URL,
  said: Readonly<Record<string, string>>,
): string {
  const to = new URL(redirect);
  for (const [name, value] of Object.entries(said)) to.searchParams.set(name, value);
  to.searchParams.set('state', asked.searchParams.get('state') ?? '');
  to.searchParams.set('iss', issuer);
  return to.href;
}
