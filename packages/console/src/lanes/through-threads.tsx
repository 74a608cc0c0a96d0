/** Threads on their way through a block of words that stands between two lanes where the page is narrow. */
export function ThroughThreads({ at }: { readonly at: readonly number[] }) {
  return (
    <svg className="through" aria-hidden="true">
      {at.map((x) => (
        <line key={x} className="thread" x1={x} x2={x} y1="0" y2="100%" />
      ))}
    </svg>
  );
}
