import type { FileFacts, Reference } from '@vaquero/core';
import { parse as parseCss, walk } from 'css-tree';
import { type DefaultTreeAdapterTypes, parse as parseHtml } from 'parse5';

type Node = DefaultTreeAdapterTypes.Node;
type Element = DefaultTreeAdapterTypes.Element;

/** Raised with every change of what is read of a file: facts read by older rules are read anew. */
export const rulesVersion = 3;

/** How a file is read, by its name. */
export const fileKinds = ['page', 'style', 'other'] as const;
export type FileKind = (typeof fileKinds)[number];

/** Says how a file is read. */
export function kindOf(path: string): FileKind {
  if (/\.(?:html?|xhtml|svg)$/i.test(path)) return 'page';
  return /\.css$/i.test(path) ? 'style' : 'other';
}

const mostReferences = 5000;

/** Reads what the inspection wants to know of a file's bytes. */
export function readFacts(kind: FileKind, bytes: Buffer): FileFacts {
  const text = bytes.toString(kind === 'other' ? 'latin1' : 'utf8');
  const { privateAddresses, ...read } =
    kind === 'page' ? readPage(text) : kind === 'style' ? readStyle(text, 0) : readOther(text);
  return {
    ...read,
    references: read.references.slice(0, mostReferences),
    privateAddresses: privateAddresses.slice(0, mostPrivate),
    keys: keyFormats.flatMap(({ what, form }) =>
      matchesIn(text, form).map(({ line }) => ({ what, line })),
    ),
    isPointer: text.startsWith('version https://git-lfs.github.com/spec/v1\n'),
  };
}

/** Lines at which some values stand in a file, as they are or percent-encoded. */
export function findValues(
  bytes: Buffer,
  values: readonly { readonly name: string; readonly value: string }[],
): readonly { readonly name: string; readonly line: number }[] {
  return values.flatMap(({ name, value }) => {
    const at = [value, encodeURIComponent(value), Buffer.from(value).toString('base64')]
      .map((form) => bytes.indexOf(form))
      .find((place) => place !== -1);
    return at === undefined ? [] : [{ name, line: lineAt(bytes.toString('latin1', 0, at), at) }];
  });
}

type Read = Pick<FileFacts, 'references' | 'anchors' | 'base' | 'privateAddresses'>;

const mostPrivate = 20;

/** What is asked for by a script or data file: texts that are such an address, and none that only speak of one. */
function readOther(text: string): Read {
  return { references: [], anchors: [], base: null, privateAddresses: privateInScript(text, 0) };
}

/** Addresses that only the machine or the office it was built in can reach. */
const privateHost =
  '(?:localhost|127\\.\\d+\\.\\d+\\.\\d+|0\\.0\\.0\\.0|\\[::1\\]|10\\.\\d+\\.\\d+\\.\\d+|192\\.168\\.\\d+\\.\\d+|172\\.(?:1[6-9]|2\\d|3[01])\\.\\d+\\.\\d+)';
const privateStart = new RegExp(`^https?://${privateHost}(?::\\d+)?(?![\\w.-])`);
/**
 * A text of a script that begins with one. Left out is what a page is made of (`children`: a tutorial that is compiled
 * into the script), and a host without port and path, which routers take as the base of addresses that have none.
 */
const privateText = new RegExp(
  `(?<!children['"]?:\\s*)["'\`](https?://${privateHost}(?::\\d+(?![\\w.-])|(?=/[\\w.-])))`,
  'g',
);

function privateInScript(text: string, linesBefore: number): Read['privateAddresses'] {
  return [...text.matchAll(privateText)].slice(0, mostPrivate).map((match) => ({
    address: match[1] ?? '',
    line: lineAt(text, match.index) + linesBefore,
  }));
}

/** Forms in which keys are commonly handed out. Values are never kept, only that and where one stands. */
const keyFormats: readonly { readonly what: string; readonly form: RegExp }[] = [
  { what: 'a private key', form: /-----BEGIN (?:[A-Z0-9]{2,12} ){0,3}PRIVATE KEY-----/g },
  { what: 'an access key of a cloud', form: /\b(?:AKIA|ASIA)[0-9A-Z]{16}\b/g },
  { what: 'a token of a code host', form: /\bgh[pousr]_[A-Za-z0-9]{36}\b/g },
  { what: 'a token of this service', form: /\bvaq[re]?_[A-Za-z0-9_-]{40,}\b/g },
  { what: 'a live payment key', form: /\b[sr]k_live_[A-Za-z0-9]{20,}\b/g },
];

function matchesIn(text: string, form: RegExp): readonly { found: string; line: number }[] {
  return [...text.matchAll(form)]
    .slice(0, 20)
    .map((match) => ({ found: match[0], line: lineAt(text, match.index) }));
}

function lineAt(text: string, offset: number): number {
  let line = 1;
  for (let at = text.indexOf('\n'); at !== -1 && at < offset; at = text.indexOf('\n', at + 1))
    line += 1;
  return line;
}

/** Attributes that name another place. Source: HTML, the index of attributes ("Valid URL"). */
const places: Readonly<Record<string, Readonly<Record<string, Reference['kind']>>>> = {
  a: { href: 'page' },
  area: { href: 'page' },
  form: { action: 'page' },
  iframe: { src: 'page' },
  link: { href: 'asset' },
  script: { src: 'asset' },
  img: { src: 'asset', srcset: 'asset' },
  source: { src: 'asset', srcset: 'asset' },
  video: { src: 'asset', poster: 'asset' },
  audio: { src: 'asset' },
  track: { src: 'asset' },
  embed: { src: 'asset' },
  object: { data: 'asset' },
  image: { href: 'asset', 'xlink:href': 'asset' },
  use: { href: 'asset', 'xlink:href': 'asset' },
};
/** Links that load nothing by themselves, and name places of other sites or pages yet to come. */
const looseLinks =
  /\b(?:canonical|alternate|prev|next|author|license|dns-prefetch|preconnect|me)\b/;

/** Links whose targets a page is shown with. */
const neededLinks = /\b(?:stylesheet|modulepreload|preload)\b/;

function readPage(text: string): Read {
  const references: Reference[] = [];
  const anchors: string[] = [];
  const privateAddresses: Read['privateAddresses'][number][] = [];
  let base: string | null = null;
  const open: Node[] = [parseHtml(text, { sourceCodeLocationInfo: true })];
  for (let node = open.pop(); node !== undefined; node = open.pop()) {
    if ('tagName' in node) {
      const attributes = new Map(node.attrs.map((each) => [nameOf(each), each.value]));
      anchors.push(
        ...['id', ...(node.tagName === 'a' ? ['name'] : [])].flatMap(
          (name) => attributes.get(name) ?? [],
        ),
      );
      if (node.tagName === 'base') base ??= attributes.get('href') ?? null;
      const own = referencesOf(node, attributes);
      references.push(...own);
      privateAddresses.push(...privateOf(node, own));
    }
    if ('content' in node) open.push(node.content);
    if ('childNodes' in node) open.push(...node.childNodes.toReversed());
  }
  return { references, anchors, base, privateAddresses };
}

/** What an element asks for; what only its words speak of, or link to as they say it, is a tutorial's. */
function privateOf(element: Element, references: readonly Reference[]): Read['privateAddresses'] {
  const line = element.sourceCodeLocation?.startLine ?? 1;
  const [first] = element.childNodes;
  const words = first !== undefined && 'value' in first ? first.value : '';
  if (element.tagName === 'script') return privateInScript(words, line - 1);
  return references.flatMap(({ to }) => {
    const address = privateStart.exec(to)?.[0];
    const isSaid = element.tagName === 'a' && words.trim().startsWith(address ?? ' ');
    return address === undefined || isSaid ? [] : [{ address, line }];
  });
}

function nameOf(attribute: Element['attrs'][number]): string {
  return attribute.prefix === undefined || attribute.prefix === ''
    ? attribute.name
    : `${attribute.prefix}:${attribute.name}`;
}

function referencesOf(
  element: Element,
  attributes: ReadonlyMap<string, string>,
): readonly Reference[] {
  const line = element.sourceCodeLocation?.startLine ?? null;
  const style = attributes.get('style');
  const inline =
    style === undefined ? [] : readStyle(style, (line ?? 1) - 1, 'declarationList').references;
  if (element.tagName === 'style') {
    const [first] = element.childNodes;
    const content = first !== undefined && 'value' in first ? first.value : '';
    return readStyle(content, (line ?? 1) - 1).references;
  }
  if (element.tagName === 'link' && looseLinks.test(attributes.get('rel') ?? '')) return inline;
  // A page is whole without its icon; without its styles it is not.
  const isWhole = element.tagName === 'link' && !neededLinks.test(attributes.get('rel') ?? '');
  const named = Object.entries(places[element.tagName] ?? {}).flatMap(([name, usual]) => {
    const kind = isWhole ? 'page' : usual;
    const value = attributes.get(name);
    if (value === undefined || value.trim() === '') return [];
    const targets = name === 'srcset' ? candidates(value) : [value];
    return targets.map((to): Reference => ({ to, line, kind }));
  });
  return [...inline, ...named];
}

/** The addresses of a srcset, each before its width or density. Source: HTML 4.8.4.2.2. */
function candidates(srcset: string): readonly string[] {
  return srcset
    .split(/,\s+|,(?=\S*\s+\d)/)
    .map((part) => part.trim().split(/\s+/)[0] ?? '')
    .filter((part) => part !== '');
}

function readStyle(
  text: string,
  linesBefore: number,
  context: 'stylesheet' | 'declarationList' = 'stylesheet',
): Read {
  const references: Reference[] = [];
  const privateAddresses: Read['privateAddresses'][number][] = [];
  const note = (to: string, line: number | undefined): void => {
    const address = privateStart.exec(to)?.[0];
    if (address !== undefined) privateAddresses.push({ address, line: (line ?? 1) + linesBefore });
    if (to !== '' && !to.startsWith('#'))
      references.push({ to, line: (line ?? 1) + linesBefore, kind: 'asset' });
  };
  const tree = parseCss(text, { context, positions: true, onParseError: () => undefined });
  walk(tree, (node) => {
    if (node.type === 'Url') note(node.value, node.loc?.start.line);
    if (
      node.type === 'Atrule' &&
      node.name === 'import' &&
      node.prelude?.type === 'AtrulePrelude'
    ) {
      const first = node.prelude.children.first;
      if (first?.type === 'String') note(first.value, node.loc?.start.line);
    }
  });
  return { references, anchors: [], base: null, privateAddresses };
}

/** Names what was read by which rules, for keeping it. */
export function factsKey(kind: FileKind): number {
  return rulesVersion * 10 + fileKinds.indexOf(kind);
}
