/**
 * The name in a Host header or an authority: its port, its case and the dot of the root behind it make no other name.
 * Source: RFC 9110 section 7.2, RFC 3986 section 3.2.2, RFC 1034 section 3.1.
 */
export function hostName(host: string): string {
  return host.toLowerCase().replace(/:\d*$/, '').replace(/\.$/, '');
}

/** How a host is reached: over https, through whatever stands before the edge, but for names of this machine. */
export function schemeOf(host: string): 'http' | 'https' {
  return /(?:^|\.)localhost(?::\d+)?$/.test(host) ? 'http' : 'https';
}
