import type { IncomingMessage, ServerResponse } from 'node:http';
import { admissionPath } from '@vaquero/core';
import fresh from 'fresh';
import { readVerified } from '../blobs/read-blob.ts';
import type { ServedFile } from '../routing/artifact-index.ts';
import { type Head, headList } from './head.ts';
import type { Bytes } from './representation.ts';
import { nothingSent, type Sent } from './send-file.ts';

/** Larger pages are sent as they are: a mark is not worth holding them. */
const mostBytes = 1 << 20;

/**
 * Sends a page with the brand and the name of its environment in a corner, under an entity tag that says so. Null, and
 * nothing was sent, for what is to be sent as it is: no whole page of HTML, one that is large, and one of a site whose
 * own policy lets it have no style. Throws BlobDamaged.
 */
export async function sendMarked(
  { store, memory }: Bytes,
  req: IncomingMessage,
  res: ServerResponse,
  file: ServedFile,
  status: 200 | 404,
  head: Head,
  name: string,
): Promise<Sent | null> {
  if (!file.mediaType.startsWith('text/html') || file.sizeBytes > mostBytes) return null;
  if (head.said.has('content-type') || !mayStyle(head.said.get('content-security-policy')))
    return null;
  const key = `${file.digest}.marked.${name}`;
  let body = memory.get(key);
  if (body === undefined) {
    const page = await readVerified(store, file.digest);
    if (!isWholePage(page)) return null;
    body = marked(page, name);
    memory.keep(key, body);
  }
  const etag = `"${file.digest.slice(0, 32)}-marked-${name}"`;
  const isKnown = status === 200 && fresh(req.headers, { etag });
  const length = isKnown ? [] : ['Content-Length', String(body.length)];
  const fields = ['ETag', etag, 'Content-Type', file.mediaType, ...length];
  res.writeHead(isKnown ? 304 : status, headList({ ...head, isLasting: false }, fields));
  const isBare = isKnown || req.method === 'HEAD';
  res.end(isBare ? undefined : body);
  return isBare ? nothingSent : { bytes: body.length, at: null };
}

/** Whether bytes are a page from its beginning, in letters that ASCII fits into, that forbids nothing itself. */
function isWholePage(page: Buffer): boolean {
  const text = page.toString('latin1');
  const isPage = /^(?:\u00ef\u00bb\u00bf)?\s*(?:<!--.*?-->\s*)*<(?:!doctype\s+html|html)[\s>]/is;
  return isPage.test(text.slice(0, 4_096)) && !/content-security-policy/i.test(text);
}

/** Puts the mark before the last end of a body, or at the end. Names of environments are letters, digits and hyphens. */
function marked(page: Buffer, name: string): Buffer {
  const at = page.toString('latin1').toLowerCase().lastIndexOf('</body');
  const place = at === -1 ? page.length : at;
  return Buffer.concat([page.subarray(0, place), Buffer.from(markOf(name)), page.subarray(place)]);
}

/** Whether a site's policy lets a page have a style of its own host. Source: Content Security Policy Level 3 section 6.8. */
function mayStyle(policy: string | undefined): boolean {
  if (policy === undefined) return true;
  // Several policies hold together; what a page may is not read out of them here.
  if (policy.includes(',')) return false;
  const directives = new Map(
    policy.split(';').map((text): [string, readonly string[]] => {
      const [name = '', ...sources] = text.trim().toLowerCase().split(/\s+/);
      return [name, sources];
    }),
  );
  const sources =
    directives.get('style-src-elem') ??
    directives.get('style-src') ??
    directives.get('default-src');
  return sources === undefined || sources.includes("'self'") || sources.includes('*');
}

/** Where the style of the mark is, on every host: no page needs one within itself, which its policy may forbid. */
export const markPath = `${admissionPath}mark.css`;

/** In a corner, over nothing that is pressed: it leads nowhere, and takes neither pointer nor selection. */
export const markStyle = `[data-vaquero-mark] {
  all: initial;
  position: fixed;
  right: 8px;
  bottom: 8px;
  z-index: 2147483647;
  padding: 3px 8px;
  font: 13px/1.4 Georgia, serif;
  color: #e9e6dd;
  background: #202131;
  pointer-events: none;
  user-select: none;
}
@media print {
  [data-vaquero-mark] {
    display: none;
  }
}
`;

function markOf(name: string): string {
  return `<link rel="stylesheet" href="${markPath}"><div data-vaquero-mark role="note">Vaquero: ${name}</div>`;
}
