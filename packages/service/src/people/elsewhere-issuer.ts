import * as oidc from 'openid-client';
import type { Elsewhere } from '../base/config.ts';

declare module '../base/deps.ts' {
  interface Deps {
    /** Where people may sign in instead; null where nowhere. */
    readonly issuer: Issuer | null;
  }
}

/** What a browser takes along when it goes to the issuer, and must bring back. */
export interface Underway {
  readonly state: string;
  readonly nonce: string;
  readonly verifier: string;
}

/** Whom an issuer vouches for. */
export interface AnsweredElsewhere {
  readonly subject: string;
  /** A mail address that it has made sure of, in small letters. */
  readonly mail: string | null;
}

/** An issuer of OpenID Connect, as signing in takes it. */
export interface Issuer {
  /** Its address, by which its names for people are kept. */
  readonly issuer: string;
  /** What people call it. */
  readonly called: string;
  /** Where the browser goes. Throws while the issuer does not answer. */
  readonly begin: () => Promise<{ readonly address: string; readonly underway: Underway }>;
  /** Whom it vouches for, by the query with which the browser came back. Throws where it vouches for nobody. */
  readonly answer: (search: string, underway: Underway) => Promise<AnsweredElsewhere>;
}

const timeoutS = 10;

/** Makes one; what it says of itself is asked when it is first needed, and again while that fails. Source: OpenID Connect Core 1.0, RFC 7636. */
export function makeIssuer(
  { issuer, client, secret, called }: Elsewhere,
  redirect: string,
): Issuer {
  let found: Promise<oidc.Configuration> | null = null;
  const isPlain = new URL(issuer).protocol === 'http:';
  const discovered = (): Promise<oidc.Configuration> => {
    found ??= oidc
      .discovery(new URL(issuer), client, secret, undefined, {
        timeout: timeoutS,
        // Its words are held against its keys, whatever stands between.
        execute: [
          oidc.enableNonRepudiationChecks,
          ...(isPlain ? [oidc.allowInsecureRequests] : []),
        ],
      })
      .catch((error: unknown) => {
        found = null;
        throw error;
      });
    return found;
  };
  return {
    issuer,
    called,
    begin: async () => {
      const verifier = oidc.randomPKCECodeVerifier();
      const underway = { state: oidc.randomState(), nonce: oidc.randomNonce(), verifier };
      const address = oidc.buildAuthorizationUrl(await discovered(), {
        redirect_uri: redirect,
        // Who has shown here that an address is theirs is known by it, where the issuer vouches for it, too.
        scope: 'openid email',
        code_challenge: await oidc.calculatePKCECodeChallenge(verifier),
        code_challenge_method: 'S256',
        state: underway.state,
        nonce: underway.nonce,
      });
      return { address: address.href, underway };
    },
    answer: async (search, { state, nonce, verifier }) => {
      const came = new URL(redirect);
      came.search = search;
      const tokens = await oidc.authorizationCodeGrant(await discovered(), came, {
        expectedState: state,
        expectedNonce: nonce,
        pkceCodeVerifier: verifier,
        idTokenExpected: true,
      });
      const claims = tokens.claims();
      // Source: OpenID Connect Core 1.0 section 2: at most 255 letters of ASCII.
      if (claims === undefined || !/^[\x20-\x7e]{1,255}$/.test(claims.sub))
        throw new Error('it named nobody');
      const { email, email_verified: isVerified } = claims;
      const mail = isVerified === true && typeof email === 'string' ? email.toLowerCase() : null;
      return { subject: claims.sub, mail };
    },
  };
}
