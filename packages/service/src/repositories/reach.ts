import { lookup } from 'node:dns/promises';
import { isIP } from 'node:net';
import { readSshAddress, type SshAddress } from '@vaquero/core';
import ipaddr from 'ipaddr.js';
import type { ApiConfig } from '../base/config.ts';
import { refused } from '../base/refused.ts';
import { oneMoreSetting } from './git.ts';
import { insideRoots } from './inside-roots.ts';
import { overSsh, type SshKey } from './ssh.ts';

/** How Git reaches a repository elsewhere: where it lies, and what Git is told before its command. */
export interface Reach {
  readonly place: string;
  readonly args: readonly string[];
  /** Variables beside those that every Git of ours has: what only this place is told. */
  readonly extra: Readonly<Record<string, string>>;
}

/** What a private repository at an https address is read with. */
export interface Token {
  readonly user: string;
  readonly secret: string;
}

/** What a private repository is read with: a token, or over SSH a key and the one that its host is known by. */
export type Credential = ({ readonly kind: 'token' } & Token) | ({ readonly kind: 'key' } & SshKey);

type Config = Pick<
  ApiConfig,
  'origin' | 'port' | 'repositoryRoots' | 'repositoryNetworks' | 'stateDirectory'
>;

const lookUpWithinMs = 10_000;
/** Names are looked up by the proxy then, where one is set; what it lets through is its own matter. */
const proxies = [
  'https_proxy',
  'http_proxy',
  'HTTPS_PROXY',
  'HTTP_PROXY',
  'all_proxy',
  'ALL_PROXY',
];

/**
 * Judges a place before each time that Git goes there. A path must lie below a folder that the operator opened. Of an
 * address every resolved one is judged: this machine's own, private networks and the like only where the operator named
 * them. Git then goes to those that were judged and to no others, follows no redirect, and never comes back to this service.
 * A credential goes to this very address alone, and over a connection that nobody listens to.
 * Refuses: path-not-allowed, repository-not-found, invalid-request, address-not-allowed, repository-unreachable,
 * token-needs-https.
 */
export async function reach(
  config: Config,
  place: string,
  credential: Token | null = null,
): Promise<Reach> {
  if (place.startsWith('/'))
    return { place: await insideRoots(place, config), args: straight, extra: {} };
  const url = URL.canParse(place) ? new URL(place) : null;
  if (url === null || !/^https?:$/.test(url.protocol))
    return refuseAddress('must be an http(s) address or an absolute path');
  if (url.username !== '' || url.password !== '')
    return refuseAddress('must not carry a user name or password');
  const host = url.hostname.replace(/^\[|\]$/g, '');
  if (ownName(config, url) !== null) return refused({ code: 'address-not-allowed', host });
  const isByProxy = isIP(host) === 0 && proxies.some((name) => process.env[name] !== undefined);
  const extra = headerFor(url, credential);
  if (isByProxy) {
    requireClosed(url, [], credential);
    return { place: url.href, args: straight, extra };
  }
  const addresses = await judged(config, host, place);
  requireClosed(url, addresses, credential);
  const port = url.port || (url.protocol === 'https:' ? '443' : '80');
  const pin = `http.curloptResolve=${host}:${port}:${addresses.map(bracketed).join(',')}`;
  return {
    place: url.href,
    args: [...straight, ...(isIP(host) === 0 ? ['-c', pin] : [])],
    extra,
  };
}

/**
 * Lends a way to a project's own repository, for as long as it is used. Over SSH the key is the only thing that opens it, and
 * the host is the one that shows the confirmed key at an address that was judged.
 * Refuses: credential-unfit, and as `reach`.
 */
export async function withReach<T>(
  config: Config,
  place: string,
  credential: Credential | null,
  use: (way: Reach) => Promise<T>,
): Promise<T> {
  const ssh = readSshAddress(place);
  if (ssh === undefined) {
    if (credential?.kind === 'key')
      return refused({ code: 'credential-unfit', place: shownPlace(place), wants: 'token' });
    return use(await reach(config, place, credential));
  }
  if (credential?.kind !== 'key')
    return refused({ code: 'credential-unfit', place: ssh.href, wants: 'key' });
  const address = await judgedAddress(config, ssh);
  return await overSsh(config.stateDirectory, ssh, address, credential, (extra) =>
    use({ place: ssh.href, args: [], extra }),
  );
}

/** Where a host of SSH lies, once it was judged. Refuses: address-not-allowed, repository-unreachable. */
export async function judgedAddress(config: Config, { host, href }: SshAddress): Promise<string> {
  const [address] = await judged(config, host, href);
  return (
    address ??
    refused({ code: 'repository-unreachable', place: href, why: 'its name is not known' })
  );
}

/** The addresses of a host, every one of which may be gone to. Refuses: address-not-allowed, repository-unreachable. */
async function judged(config: Config, host: string, place: string): Promise<readonly string[]> {
  const addresses = isIP(host) === 0 ? await addressesOf(host, shownPlace(place)) : [host];
  if (!addresses.every((address) => isAllowed(address, host, config.repositoryNetworks)))
    return refused({ code: 'address-not-allowed', host });
  return addresses;
}

/** Refuses (token-needs-https) a credential over a connection that others can read: none but https, and this very machine. */
function requireClosed(
  { protocol, hostname }: URL,
  addresses: readonly string[],
  credential: Token | null,
): void {
  if (credential === null || protocol === 'https:') return;
  const isHere = addresses.every((address) => ipaddr.process(address).range() === 'loopback');
  if (addresses.length === 0 || !isHere) refused({ code: 'token-needs-https', host: hostname });
}

/**
 * A credential as Git sends it: a header for this address alone, by the environment, which no list of processes shows.
 * Source: git-config(1), http.<url>.*; RFC 7617.
 */
function headerFor(url: URL, credential: Token | null): Readonly<Record<string, string>> {
  if (credential === null) return {};
  const { user, secret } = credential;
  const basic = Buffer.from(`${user}:${secret}`).toString('base64');
  return oneMoreSetting(`http.${url.href}.extraHeader`, `Authorization: Basic ${basic}`);
}

/** A host that is allowed could otherwise send the service on to one that is not. Objects elsewhere count as redirects. */
const straight = ['-c', 'http.followRedirects=false'];

function refuseAddress(message: string): never {
  return refused({
    code: 'invalid-request',
    faults: [{ path: 'repository.url', message, line: null, column: null }],
  });
}

/** The name of the project whose hosted repository an address of this very service stands for; null for other addresses. */
export function ownName(
  { origin, port }: Pick<Config, 'origin' | 'port'>,
  url: URL,
): string | null {
  const own = [new URL(origin).host, `localhost:${port}`, `127.0.0.1:${port}`, `[::1]:${port}`];
  if (!own.includes(url.host)) return null;
  return /^\/git\/([^/]+?)(?:\.git)?\/?$/.exec(url.pathname)?.[1] ?? '';
}

/** A place as it is shown: what stands behind a question mark may be a secret, and so may a user, but for SSH. */
export function shownPlace(place: string): string {
  if (readSshAddress(place) !== undefined) return place;
  return place.replace(/[?#].*$/s, '').replace(/(\/\/)[^/@]*@/, '$1');
}

async function addressesOf(host: string, place: string): Promise<readonly string[]> {
  try {
    const late = AbortSignal.timeout(lookUpWithinMs);
    const found = await Promise.race([
      lookup(host, { all: true, verbatim: true }),
      new Promise<never>((_, reject) => late.addEventListener('abort', () => reject(late.reason))),
    ]);
    if (found.length > 0) return found.map(({ address }) => address);
  } catch {
    // Said below: which way a name is not known is of no use to whoever gave it.
  }
  return refused({ code: 'repository-unreachable', place, why: 'its name is not known' });
}

/** Whether an address is one that anybody on the internet could reach, or one that the operator named. */
function isAllowed(address: string, host: string, networks: readonly string[]): boolean {
  const parsed = ipaddr.process(address);
  if (parsed.range() === 'unicast') return true;
  return networks.some((network) => {
    if (network.toLowerCase() === host.toLowerCase()) return true;
    if (!ipaddr.isValidCIDR(network) && !ipaddr.isValid(network)) return false;
    const [base, bits] = ipaddr.isValidCIDR(network)
      ? ipaddr.parseCIDR(network)
      : ([ipaddr.process(network), undefined] as const);
    if (base.kind() !== parsed.kind()) return false;
    return parsed.match(base, bits ?? (base.kind() === 'ipv4' ? 32 : 128));
  });
}

function bracketed(address: string): string {
  return isIP(address) === 6 ? `[${address}]` : address;
}
