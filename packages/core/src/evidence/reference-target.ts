/**
 * Where a reference of the page at an address leads within its own site: an absolute path and what stands behind `#`.
 * Null for what leads elsewhere. Source: RFC 3986, sections 5.2.2 and 5.2.4.
 */
export function targetOf(
  address: string,
  base: string | null,
  to: string,
): { readonly path: string; readonly anchor: string } | null {
  const written = to.trim();
  if (/^[a-z][a-z0-9+.-]*:/i.test(written) || written.startsWith('//')) return null;
  if (base !== null && /^(?:[a-z][a-z0-9+.-]*:|\/\/)/i.test(base)) return null;
  const [beforeHash = '', anchor = ''] = written.split('#', 2);
  const [path = ''] = beforeHash.split('?', 1);
  const from = base === null ? address : joined(address, base);
  return { path: path === '' ? address : joined(from, path), anchor: decoded(anchor) };
}

function joined(from: string, path: string): string {
  const parts = path.startsWith('/') ? [] : from.split('/').slice(1, -1);
  const steps = path.replace(/^\//, '').split('/');
  for (const [place, step] of steps.entries()) {
    const isLast = place === steps.length - 1;
    if (step === '..') parts.pop();
    else if (step !== '.') parts.push(step);
    if (isLast && (step === '..' || step === '.')) parts.push('');
  }
  return `/${parts.join('/')}`;
}

function decoded(text: string): string {
  try {
    return decodeURIComponent(text);
  } catch {
    // A malformed escape is compared as it is written, as browsers do (HTML 7.4.6.4, "find a potential indicated element").
    return text;
  }
}
