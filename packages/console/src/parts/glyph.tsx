const strokes = {
  queued: {
    tone: 'text-ink-2',
    shape: (
      <g fill="currentColor">
        <circle cx="2" cy="6" r="1.3" />
        <circle cx="6" cy="6" r="1.3" />
        <circle cx="10" cy="6" r="1.3" />
      </g>
    ),
  },
  waiting: { tone: 'text-ink-2', shape: <path d="M6 1.2a4.8 4.8 0 1 0 .01 0M6 3v3.2h2.6" /> },
  running: {
    tone: 'text-action',
    shape: (
      <>
        <path d="M6 1.2a4.8 4.8 0 1 0 .01 0" />
        <path
          className="turns"
          d="M6 6V2.4A3.6 3.6 0 0 1 9.6 6z"
          fill="currentColor"
          stroke="none"
        />
      </>
    ),
  },
  reused: { tone: 'text-ink-2', shape: <path d="M1.5 1.5h9v9h-9zM3.6 4.6h4.8M3.6 7.4h4.8" /> },
  passed: { tone: 'text-good', shape: <path d="M1.5 6.5l3 3 6-7" strokeWidth="2" /> },
  warned: {
    tone: 'text-warn',
    shape: <path d="M6 1.4L11 10.6H1zM6 4.6v3" />,
  },
  flaky: {
    tone: 'text-warn',
    shape: <path d="M1.2 8.2l2.4-4 2.4 4 2.4-4 2.4 4" strokeWidth="1.6" />,
  },
  failed: {
    tone: 'text-bad',
    shape: (
      <>
        <path d="M1 1h10v10H1z" fill="currentColor" stroke="none" />
        <path d="M3.8 3.8l4.4 4.4m0-4.4l-4.4 4.4" stroke="var(--paper)" strokeWidth="1.6" />
      </>
    ),
  },
  cancelled: { tone: 'text-ink-2', shape: <path d="M6 1.2a4.8 4.8 0 1 0 .01 0M2.6 9.4l6.8-6.8" /> },
  stopped: { tone: 'text-ink-2', shape: <path d="M2 2h8v8H2z" /> },
  skipped: { tone: 'text-ink-2', shape: <path d="M2 6h8" strokeWidth="1.8" /> },
  live: {
    tone: 'text-good',
    shape: <circle cx="6" cy="6" r="4.6" fill="currentColor" stroke="none" />,
  },
  held: {
    tone: 'text-warn',
    shape: (
      <>
        <path d="M1.5 1v10M10.5 1v10" />
        <path d="M1.5 6h9" strokeWidth="3.4" />
      </>
    ),
  },
  stale: {
    tone: 'text-warn',
    shape: <path d="M6 1.2a4.8 4.8 0 1 0 .01 0" strokeDasharray="2.2 1.8" />,
  },
  nothing: {
    tone: 'text-ink-2',
    shape: <path d="M6 1.2a4.8 4.8 0 1 0 .01 0" strokeDasharray="2.2 1.8" />,
  },
  'rolled-back': {
    tone: 'text-ink',
    shape: <path d="M4.4 1.6L1.6 4.4l2.8 2.8M1.8 4.4h5.4a3 3 0 0 1 0 6H4.6" />,
  },
  promoted: {
    tone: 'text-thread',
    shape: <path d="M6 11V3M3.4 5L6 1.6 8.6 5" strokeDasharray="3 1.4" />,
  },
  'let-in': {
    tone: 'text-ink',
    shape: <path d="M1.2 6h6M5 3.8L7.2 6 5 8.2M8 1.5h2.6v9H8" />,
  },
  automatic: { tone: 'text-ink-2', shape: <path d="M1.5 6h8M7 3.4L9.8 6 7 8.6" /> },
} as const;

export type GlyphName = keyof typeof strokes;

/** A state's shape, always beside its word: it is hidden from screen readers, which hear the word. */
export function Glyph({
  name,
  className = '',
}: {
  readonly name: GlyphName;
  readonly className?: string;
}) {
  const { tone, shape } = strokes[name];
  return (
    <svg
      className={`inline-block shrink-0 align-[-1px] ${tone} ${className}`}
      width="12"
      height="12"
      viewBox="0 0 12 12"
      fill="none"
      stroke="currentColor"
      strokeWidth="1.4"
      aria-hidden="true"
    >
      {shape}
    </svg>
  );
}
