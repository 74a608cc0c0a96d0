import type { Instant } from '@vaquero/core';
import type { Deps } from '../base/deps.ts';
import type { TokenRow } from './token-rows.ts';
import { viewScopes } from './token-scope.ts';

/** A token with the names of what it is narrowed to. */
export async function viewToken(deps: Deps, token: TokenRow) {
  const [scope] = await viewScopes(deps, [token]);
  return plainToken(token, scope ?? null);
}

/** A token as lists show it. */
export function plainToken(token: TokenRow, scope: Awaited<ReturnType<typeof viewScopes>>[number]) {
  const { id, name, kind } = token;
  return {
    id,
    name,
    kind,
    scope,
    madeAt: token.madeAt as Instant,
    expiresAt: token.expiresAt as Instant,
    lastUsedAt: token.lastUsedAt as Instant | null,
  };
}
