import type { LaneReply, MapReply } from '@vaquero/contracts';
import { counted, type DeliveryMap, type DrawnRule, drawMap, type RefName } from '@vaquero/core';
import { useWidth } from '../lanes/use-width.ts';
import { BrandMark, Unbranded } from '../parts/brand-mark.tsx';
import { Glyph } from '../parts/glyph.tsx';

type Lane = LaneReply['environments'][number];

interface DrawingProps {
  readonly map: DeliveryMap;
  /** Rules of the version in force: what is not among them is not there yet. */
  readonly inForce: MapReply['rules'];
  readonly refs: MapReply['refs'];
  readonly lanes: readonly Lane[];
}

/** The map, drawn: refs on the left, environments in lane order on the right, each rule a line with what it matches now. */
export function MapDrawing({ map, inForce, refs, lanes }: DrawingProps) {
  const [place, width] = useWidth<HTMLDivElement>();
  const heads = refs.map(({ ref, into }) => ({ ref: ref as RefName, into }));
  const drawn = drawMap(map, heads);
  const isNew = (rule: DrawnRule): boolean =>
    !inForce.some(({ name, says }) => name === rule.name && says === rule.says);
  return (
    <section
      aria-label="The map, drawn"
      className="grid grid-cols-[13rem_minmax(0,1fr)_20rem] max-[899px]:hidden"
    >
      <div className="relative" style={{ height: drawn.height }}>
        {drawn.groups.map((group) => (
          <div key={group.title}>
            <h2 className="absolute font-[650]" style={{ top: group.y - 9 }}>
              {group.title} <span className="font-[400] text-ink-2">{group.count}</span>
            </h2>
            {group.refs.map((one) => (
              <p
                key={one.ref ?? one.name}
                className={`absolute flex w-full justify-between pr-3 ${one.goes ? '' : 'text-ink-2'}`}
                style={{ top: one.y - 9 }}
              >
                {one.ref === null ? (
                  <span className="text-ink-2">{one.name}</span>
                ) : (
                  <code className="truncate" title={one.name}>
                    {one.name}
                  </code>
                )}
                {one.ref === null || one.goes ? null : <span>nowhere</span>}
              </p>
            ))}
          </div>
        ))}
      </div>
      <div ref={place} className="relative min-w-0" style={{ height: drawn.height }}>
        <svg width={width} height={drawn.height} aria-hidden="true" className="absolute inset-0">
          {drawn.rules.map((rule) => (
            <RuleLine key={rule.name} rule={rule} width={width} isNew={isNew(rule)} />
          ))}
        </svg>
        {drawn.rules.map((rule) => (
          <p
            key={rule.name}
            className="absolute right-10 truncate bg-paper px-1"
            style={{ top: rule.y - 22, maxWidth: Math.max(0, width - 190) }}
            title={rule.says}
          >
            <code>{rule.says}</code>{' '}
            <span className="text-ink-2">
              {rule.kind === 'accepts'
                ? ''
                : rule.matchCount === 0
                  ? 'nothing now'
                  : counted(rule.matchCount, 'ref')}
              {isNew(rule) ? ', not in force yet' : ''}
            </span>
          </p>
        ))}
      </div>
      <div className="relative" style={{ height: drawn.height }}>
        {drawn.rules.map((rule) => (
          <Place key={rule.name} rule={rule} lanes={lanes} />
        ))}
      </div>
    </section>
  );
}

/** From the bracket around the refs to the environment; what is accepted rises in stitches. */
function RuleLine({
  rule,
  width,
  isNew,
}: {
  readonly rule: DrawnRule;
  readonly width: number;
  readonly isNew: boolean;
}) {
  const end = width - 4;
  if (rule.acceptsAt !== null)
    return (
      <g className="stroke-thread" fill="none">
        <path
          d={`M${end - 2} ${rule.acceptsAt - 8} H${end - 20} V${rule.y} H${end - 4}`}
          strokeWidth="1.7"
          strokeDasharray="4 2.6"
        />
        <path d={`M${end - 5} ${rule.y - 4} l6 4 l-6 4 z`} className="fill-thread" stroke="none" />
      </g>
    );
  if (rule.brackets.length === 0)
    return (
      <path
        d={`M${end - 60} ${rule.y} H${end}`}
        className="stroke-ink-3"
        strokeDasharray="9 5"
        fill="none"
      />
    );
  const turn = 30 + rule.column * 14;
  const middles = rule.brackets.map(({ top, bottom }) => (top + bottom) / 2);
  const [from, to] = [Math.min(rule.y, ...middles), Math.max(rule.y, ...middles)];
  const dashes = isNew ? '9 5' : undefined;
  return (
    <g className="stroke-ink-2" fill="none" strokeWidth="1.4">
      {rule.brackets.map(({ top, bottom }) => (
        <g key={top}>
          <path d={`M2 ${top} H8 V${bottom} H2`} />
          <path d={`M8 ${(top + bottom) / 2} H${turn}`} strokeDasharray={dashes} />
        </g>
      ))}
      <path d={`M${turn} ${from} V${to} M${turn} ${rule.y} H${end}`} strokeDasharray={dashes} />
      <path d={`M${end - 6} ${rule.y - 4} l6 4 l-6 4`} />
    </g>
  );
}

/** An environment at the right: what it serves, or those of its family. */
function Place({ rule, lanes }: { readonly rule: DrawnRule; readonly lanes: readonly Lane[] }) {
  const own = lanes.filter((lane) =>
    rule.kind === 'each' ? lane.family?.rule === rule.name : lane.name === rule.name,
  );
  const [one] = own;
  return (
    <section
      aria-label={rule.name}
      className="absolute w-full overflow-hidden border-t border-rule pl-2 pt-1"
      style={{ top: rule.y - 33, height: 64 }}
    >
      <h3 className="text-place font-[650]">
        {rule.name}{' '}
        <span className="text-small font-[400] text-ink-2">
          {rule.kind === 'each' ? `one for each match, ${own.length} now` : null}
        </span>
      </h3>
      {rule.kind === 'each' ? (
        <p className="flex flex-wrap gap-x-3">
          {own.slice(0, 4).map((lane) => (
            <a key={lane.name} href={lane.address} className="whitespace-nowrap">
              <Mark lane={lane} /> {lane.name}
            </a>
          ))}
          {own.length > 4 ? <span className="text-ink-2">and {own.length - 4} more</span> : null}
        </p>
      ) : one === undefined ? (
        <p className="text-ink-2">
          <Unbranded size={14} /> not there yet
        </p>
      ) : (
        <p className="truncate">
          <Mark lane={one} />{' '}
          {one.serves === null ? (
            <span className="text-ink-2">waits for its first</span>
          ) : (
            <>
              build <b className="font-[650]">{one.serves.build}</b>{' '}
              <code className="text-ink-2">{one.serves.artifact.slice(0, 8)}</code>
              {one.hold === null ? null : (
                <>
                  {' '}
                  <Glyph name="held" /> held
                </>
              )}
            </>
          )}
        </p>
      )}
    </section>
  );
}

function Mark({ lane }: { readonly lane: Lane }) {
  return lane.serves === null ? (
    <Unbranded size={14} />
  ) : (
    <BrandMark digest={lane.serves.artifact} size={14} className="align-[-2px]" />
  );
}
