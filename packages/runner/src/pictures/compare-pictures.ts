import pixelmatch from 'pixelmatch';
import { PNG } from 'pngjs';

/** What two pictures of a page differ in. */
export interface PicturesCompared {
  /** Of the pixels of the taller one, from 0 to 1. */
  readonly share: number;
  /** The stretch from the first to the last row that differs, of each, and what differs there; null where none does. */
  readonly shown: {
    readonly before: Buffer;
    readonly after: Buffer;
    readonly difference: Buffer;
  } | null;
}

/** So many rows are shown around what differs, that it is seen where it stands. */
const around = 60;

/** Compares two pictures of one width. The shorter one goes on in white. */
export function comparePictures(one: Buffer, other: Buffer): PicturesCompared {
  const [before, after] = [PNG.sync.read(one), PNG.sync.read(other)];
  const width = Math.max(before.width, after.width);
  const height = Math.max(before.height, after.height);
  const [a, b] = [sized(before, width, height), sized(after, width, height)];
  const difference = new PNG({ width, height });
  const count = pixelmatch(a.data, b.data, difference.data, width, height, {
    threshold: 0.1,
    diffColor: [190, 60, 0],
  });
  const share = count / (width * height);
  const rows = rowsThatDiffer(a, b);
  if (count === 0 || rows === null) return { share, shown: null };
  const from = Math.max(0, rows.first - around);
  const upTo = Math.min(height, rows.last + 1 + around);
  const stretch = (picture: PNG): Buffer => {
    const cut = new PNG({ width, height: upTo - from });
    PNG.bitblt(picture, cut, 0, from, width, upTo - from, 0, 0);
    return PNG.sync.write(cut);
  };
  return {
    share,
    shown: { before: stretch(a), after: stretch(b), difference: stretch(difference) },
  };
}

function sized(picture: PNG, width: number, height: number): PNG {
  if (picture.width === width && picture.height === height) return picture;
  const large = new PNG({ width, height });
  large.data.fill(255);
  PNG.bitblt(picture, large, 0, 0, picture.width, picture.height, 0, 0);
  return large;
}

function rowsThatDiffer(a: PNG, b: PNG): { readonly first: number; readonly last: number } | null {
  const bytes = a.width * 4;
  const differs = (row: number): boolean =>
    a.data.compare(b.data, row * bytes, (row + 1) * bytes, row * bytes, (row + 1) * bytes) !== 0;
  const rows = Array.from({ length: a.height }, (_, row) => row).filter(differs);
  const [first] = rows;
  const last = rows.at(-1);
  return first === undefined || last === undefined ? null : { first, last };
}
