import { brandOf, brandPaths, type Digest } from '@vaquero/core';

/** The mark of an artifact. Its spoken name is its title and its accessible name. */
export function BrandMark({
  digest,
  size,
  className = '',
}: {
  readonly digest: Digest;
  readonly size: number;
  readonly className?: string;
}) {
  const brand = brandOf(digest);
  const { stroked, filled } = brandPaths(brand);
  return (
    <svg
      className={`hue-${brand.hue} inline-block shrink-0 ${className}`}
      width={size}
      height={size}
      viewBox="0 0 16 16"
      role="img"
      aria-label={`brand ${brand.name}`}
    >
      <title>{`${brand.name}, ${digest.slice(0, 12)}`}</title>
      <path d={stroked} fill="none" stroke="var(--line)" strokeWidth="2" />
      {filled === '' ? null : <path d={filled} fill="var(--line)" />}
    </svg>
  );
}

/** The empty place for a brand: no artifact yet, so no digest, so no mark. */
export function Unbranded({ size }: { readonly size: number }) {
  return (
    <svg
      className="inline-block shrink-0"
      width={size}
      height={size}
      viewBox="0 0 16 16"
      role="img"
      aria-label="no artifact yet"
    >
      <path
        d="M2 2h12v12H2z"
        fill="none"
        stroke="var(--ink-3)"
        strokeWidth="1.4"
        strokeDasharray="2.4 2"
      />
    </svg>
  );
}
