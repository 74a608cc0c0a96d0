/** A page as it was pictured. */
export interface PagePictured {
  readonly before: string | null;
  readonly after: string | null;
  /** Of its pixels, from 0 to 1; null where it could not be pictured. */
  readonly share: number | null;
}

/** How far pictures of two artifacts are. */
export type PicturesState = 'none' | 'wanted' | 'taking' | 'taken' | 'failed';

/** What pictures show, in a sentence without its point. */
export function picturesInWords(
  state: PicturesState,
  why: string | null,
  pages: readonly PagePictured[],
): string {
  if (state === 'none') return 'nothing that differs can be seen';
  if (state === 'wanted') return 'they wait for a runner that has Chromium';
  if (state === 'taking') return 'they are being taken';
  if (state === 'failed') return `there are none: ${why ?? 'nobody said why'}`;
  const both = pages.filter(({ before, after }) => before !== null && after !== null);
  const count = (of: readonly unknown[], one: string, more: string): string[] =>
    of.length === 0 ? [] : [`${of.length} ${of.length === 1 ? one : more}`];
  const said = [
    ...count(
      both.filter(({ share }) => (share ?? 0) > 0),
      'page looks otherwise',
      'pages look otherwise',
    ),
    ...count(
      both.filter(({ share }) => share === 0),
      'looks the same',
      'look the same',
    ),
    ...count(
      pages.filter(({ before, share }) => before === null && share !== null),
      'is new',
      'are new',
    ),
    ...count(
      pages.filter(({ after, share }) => after === null && share !== null),
      'is gone',
      'are gone',
    ),
    ...count(
      pages.filter(({ share }) => share === null),
      'could not be pictured',
      'could not be pictured',
    ),
  ];
  return said.join(', ');
}

/** How much of a page differs: one digit behind the point, and never none of what is some. */
export function pixelsInWords(share: number): string {
  const percent = share * 100;
  if (percent > 0 && percent < 0.1) return 'under 0.1 % of its pixels';
  return `${percent.toFixed(1).replace(/\.0$/, '')} % of its pixels`;
}

/** The address of a page, as people see it. */
export function addressOfPage(path: string): string {
  return `/${path.replace(/(?:^|(?<=\/))index\.html?$/, '').replace(/\.html?$/, '')}`;
}
