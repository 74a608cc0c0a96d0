/** The version of this release; package.json bears the same, which a test sees to. */
export const version = '0.21.0';

/**
 * The version of what runners and edges say to the service. An api speaks this one and the one before, so that the roles
 * of other machines may be brought up to date after it. Version 1 had no name, version 2 was told of every artifact with the routing table.
 */
export const protocol = 3;
export const protocolHeader = 'vaquero-protocol';

/** The header fields with which a runner, an edge or an attempt calls. */
export function headersOfRole(token: string): Record<string, string> {
  return { authorization: `Bearer ${token}`, [protocolHeader]: String(protocol) };
}
