import type { Digest } from '../digest.ts';

/** Hue names, by index. Red, ochre and copper stay with states and are left out. */
export const hueNames = [
  'rose',
  'clay',
  'olive',
  'green',
  'teal',
  'blue',
  'violet',
  'plum',
] as const;

/** A brand: which head on which foot, in which hue, and how it is said. */
export interface Brand {
  readonly head: number;
  readonly foot: number;
  readonly hue: number;
  readonly name: string;
}

interface Element {
  readonly name: string;
  readonly stroked?: (y: number) => string;
  readonly filled?: (y: number) => string;
  /** Where the staff leaves it as head and arrives at it as foot, in units below its top. */
  readonly leave: number;
  readonly arrive: number;
}

const elements: readonly Element[] = [
  { name: 'ring', stroked: (y) => `M5 ${y + 3}a3 3 0 1 0 6 0a3 3 0 1 0 -6 0`, leave: 6, arrive: 0 },
  { name: 'bar', stroked: (y) => `M2 ${y + 3}h12`, leave: 3, arrive: 3 },
  { name: 'bars', stroked: (y) => `M2 ${y + 0.6}h12M2 ${y + 5.4}h12`, leave: 0.6, arrive: 5.4 },
  { name: 'hook', stroked: (y) => `M8 ${y + 2.2}v.6a3 3 0 0 1 -6 0v-3.4`, leave: 2.2, arrive: 2.4 },
  {
    name: 'lozenge',
    filled: (y) => `M8 ${y - 1}L15.6 ${y + 3}L8 ${y + 7}L.4 ${y + 3}z`,
    leave: 5,
    arrive: 1,
  },
  { name: 'vee', stroked: (y) => `M2.5 ${y}L8 ${y + 5.5}L13.5 ${y}`, leave: 5.5, arrive: 1.4 },
  {
    name: 'disc',
    filled: (y) => `M4.2 ${y + 3}a3.8 3.8 0 1 0 7.6 0a3.8 3.8 0 1 0 -7.6 0`,
    leave: 5,
    arrive: 1,
  },
  {
    name: 'flag',
    filled: (y) => `M8 ${y - 1}L15 ${y + 2.8}L8 ${y + 6.6}z`,
    leave: -1,
    arrive: 6.6,
  },
  {
    name: 'bow',
    filled: (y) => `M1.5 ${y - 0.6}L8 ${y + 2.2}L14.5 ${y - 0.6}v7.2L8 ${y + 3.8}L1.5 ${y + 6.6}z`,
    leave: 3,
    arrive: 3,
  },
  { name: 'saltire', stroked: (y) => `M3.5 ${y}l9 6M12.5 ${y}l-9 6`, leave: 3, arrive: 3 },
  {
    name: 'rafter',
    stroked: (y) => `M2.5 ${y + 6}L8 ${y + 0.5}L13.5 ${y + 6}`,
    leave: 4.6,
    arrive: 0.5,
  },
  { name: 'crate', stroked: (y) => `M2.5 ${y}h11v6h-11z`, leave: 6, arrive: 0 },
  // The arms of the cup stand 1.2 lower than its floor would ask, lest a brand read as a horned head.
  { name: 'cup', stroked: (y) => `M2.6 ${y + 1.2}a5.4 3.8 0 0 0 10.8 0`, leave: 5, arrive: 5 },
  { name: 'bowl', filled: (y) => `M1.6 ${y - 0.6}h12.8a6.4 7 0 0 1 -12.8 0z`, leave: 5, arrive: 1 },
  { name: 'eave', stroked: (y) => `M2 ${y + 6}a6 5 0 0 1 12 0`, leave: 1, arrive: 1 },
  { name: 'banner', filled: (y) => `M1.4 ${y + 0.2}h6v5.6h-6z`, leave: 0, arrive: 6 },
];

const headTop = 1.4;
const footTop = 8.6;

/** Reads a digest's brand from its first three hexadecimal digits: 16 heads, 16 feet, 8 hues. */
export function brandOf(digest: Digest): Brand {
  const head = Number.parseInt(digest.charAt(0), 16);
  const foot = Number.parseInt(digest.charAt(1), 16);
  const hue = Number.parseInt(digest.charAt(2), 16) >> 1;
  return {
    head,
    foot,
    hue,
    name: `${hueNames[hue]} ${elements[head]?.name} on ${elements[foot]?.name}`,
  };
}

/** The two SVG paths of a brand on a 16 by 16 grid: one stroked 2 wide, one filled ('' when it has none). */
export function brandPaths(brand: Brand): { readonly stroked: string; readonly filled: string } {
  const head = elements[brand.head];
  const foot = elements[brand.foot];
  if (head === undefined || foot === undefined) return { stroked: '', filled: '' };
  const staff = `M8 ${headTop + head.leave}V${footTop + foot.arrive}`;
  const stroked = [head.stroked?.(headTop), foot.stroked?.(footTop), staff];
  const filled = [head.filled?.(headTop), foot.filled?.(footTop)];
  return { stroked: tidy(stroked.join('')), filled: tidy(filled.join('')) };
}

function tidy(path: string): string {
  return path.replace(/-?\d+\.\d{3,}/g, (figure) => String(Number(Number(figure).toFixed(2))));
}
