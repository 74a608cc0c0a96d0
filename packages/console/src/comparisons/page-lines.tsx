import type { ComparisonReply } from '@vaquero/contracts';

type PageLine = ComparisonReply['pages'][number]['lines'][number];

const marked = {
  added: 'bg-good-wash text-good underline decoration-1',
  removed: 'bg-bad-wash text-bad line-through decoration-1',
  same: '',
  gap: 'text-ink-3',
} as const;
const said = { added: 'added: ', removed: 'removed: ', same: '', gap: '' } as const;

/** What the readers of a page see otherwise: what went is struck through, what came is underlined, and both are said aloud. */
export function PageLines({ lines }: { readonly lines: readonly PageLine[] }) {
  return (
    <ol className="said">
      {lines.map((line, place) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: lines repeat, and the list is never edited in place.
        <li key={place} className="[overflow-wrap:anywhere]">
          {line.is === 'reworded' ? (
            line.parts.map(({ is, text }, at) => (
              // biome-ignore lint/suspicious/noArrayIndexKey: words repeat, and the list is never edited in place.
              <Piece key={at} is={is} text={text} />
            ))
          ) : (
            <Piece is={line.is} text={line.is === 'gap' ? '…' : line.text} />
          )}
        </li>
      ))}
    </ol>
  );
}

function Piece({ is, text }: { readonly is: keyof typeof marked; readonly text: string }) {
  if (is === 'added')
    return (
      <ins className={marked.added}>
        <span className="sr-only">{said.added}</span>
        {text}
      </ins>
    );
  if (is === 'removed')
    return (
      <del className={`mr-1 ${marked.removed}`}>
        <span className="sr-only">{said.removed}</span>
        {text}
      </del>
    );
  return <span className={marked[is]}>{text}</span>;
}
