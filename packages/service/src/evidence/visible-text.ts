import { type DefaultTreeAdapterTypes, parse } from 'parse5';

type Node = DefaultTreeAdapterTypes.Node;
type Element = DefaultTreeAdapterTypes.Element;

/** What a page does not show as text. */
const unseen = new Set(['script', 'style', 'template', 'noscript', 'svg', 'math']);
/** What stands within a line. Source: HTML, "Phrasing content"; everything else begins a line of its own. */
const within = new Set([
  ...['a', 'abbr', 'b', 'bdi', 'bdo', 'cite', 'code', 'data', 'dfn', 'em', 'i', 'kbd', 'label'],
  ...[
    'mark',
    'q',
    'ruby',
    's',
    'samp',
    'small',
    'span',
    'strong',
    'sub',
    'sup',
    'time',
    'u',
    'var',
  ],
  ...['img', 'input', 'button', 'wbr', 'ins', 'del', 'output', 'slot', 'font'],
]);
const mostLetters = 400_000;

/**
 * The text that a page shows, a line for each paragraph, heading, cell or item; the title first. Pictures stand in it by
 * the words that they are given. What styles and scripts hide or write is not known here.
 */
export function visibleText(html: string): string {
  const lines = collectLines();
  // Depth is not bounded by the stack: a page may nest as deep as its maker likes.
  const left: (Node | 'end')[] = [parse(html)];
  for (let node = left.pop(); node !== undefined; node = left.pop()) {
    if (node === 'end') lines.end();
    else if (node.nodeName === '#text') lines.add((node as DefaultTreeAdapterTypes.TextNode).value);
    else if (!isElement(node)) left.push(...childrenOf(node));
    else if (node.tagName === 'head') left.push('end', ...titlesOf(node));
    else if (!unseen.has(node.tagName)) {
      const isLine = !within.has(node.tagName);
      if (isLine) lines.end();
      lines.add(wordsGiven(node));
      left.push(...(isLine ? (['end'] as const) : []), ...childrenOf(node));
    }
  }
  return lines.all();
}

/** Lines as they are put together from pieces of text; over a bound nothing is added. */
function collectLines() {
  const lines: string[] = [];
  let line = '';
  let letters = 0;
  const end = (): void => {
    const said = line.replace(/\s+/g, ' ').trim();
    if (said !== '') lines.push(said);
    line = '';
  };
  return {
    end,
    add: (text: string): void => {
      letters += text.length;
      if (letters <= mostLetters) line += text;
    },
    all: (): string => {
      end();
      return lines.join('\n');
    },
  };
}

/** The children of a node, the last one first, as a stack takes them. */
function childrenOf(node: Node): readonly Node[] {
  return 'childNodes' in node ? node.childNodes.toReversed() : [];
}

function isElement(node: Node): node is Element {
  return 'tagName' in node;
}

function titlesOf(head: Element): readonly Node[] {
  return head.childNodes.filter((node) => isElement(node) && node.tagName === 'title');
}

/** What an element says by an attribute: a picture its words, a field what stands in it. */
function wordsGiven({ tagName, attrs }: Element): string {
  const given = (name: string): string =>
    attrs.find((one) => one.name === name)?.value.trim() ?? '';
  if (tagName === 'img') return given('alt') === '' ? '' : ` [picture: ${given('alt')}] `;
  if (tagName === 'input') return ` ${given('placeholder') || given('value')} `;
  return '';
}
