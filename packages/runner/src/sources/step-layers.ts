import { chmodSync, closeSync, mkdirSync } from 'node:fs';
import { join } from 'node:path';
import { openFolder } from '../descriptors/beneath.ts';
import { namesAt } from '../descriptors/list-beneath.ts';
import type { Mount } from '../walls/wall-arguments.ts';
import { type Layered, openLayered } from './layered.ts';

/** Layers over folders that a step sees and that are not its own, so that it may write where its programs expect to. */
export interface StepLayers {
  /** Shows a folder, by an open descriptor of this process, at a path of the build. */
  readonly show: (lower: number, path: string) => Promise<Mount>;
  /** Whether another one may be opened; beyond that, a folder is shown as it is. */
  readonly hasRoom: () => boolean;
  /** What was written over each, as far as one would name it: it goes with the layer. */
  readonly written: () => readonly string[];
  readonly close: () => Promise<void>;
}

/** Where a build's workplace shows layers: what lies there is counted where it was written. */
export const shownLayers = 'shown';

/** Each takes half a millisecond to open: so many a step may have, and see the rest as it is. */
const mostLayers = 64;
/** So many names of each are looked at. */
const mostNames = 50;

interface Layer extends Layered {
  readonly path: string;
}

/**
 * Opens layers for one try of a step. What they show is never written to: a program that keeps notes beside the
 * packages it came from finds a place for them, and nobody else finds the notes.
 */
export function openStepLayers(workplace: string, name: string, uid: number | null): StepLayers {
  const layers: Layer[] = [];
  let made = 0;
  const shown = join(workplace, shownLayers, name);
  const over = join(workplace, 'over', name);
  return {
    hasRoom: () => made < mostLayers,
    show: async (lower, path) => {
      const [at, beside] = [join(shown, String(made)), join(over, String(made))];
      made += 1;
      for (const folder of [over, at]) mkdirSync(folder, { recursive: true, mode: 0o711 });
      const layered = await openLayered(`/proc/${process.pid}/fd/${lower}`, at, beside, uid);
      chmodSync(layered.written, 0o755);
      layers.push({ ...layered, path });
      return { from: at, at: path === '.' ? '/build' : `/build/${path}`, writable: true };
    },
    written: () => layers.flatMap(placesWritten),
    close: async () => {
      // The last one first: it may lie over another. They are taken away in the order they are asked for.
      await Promise.all(
        layers
          .splice(0)
          .toReversed()
          .map((layer) => layer.close()),
      );
    },
  };
}

/** The first places below a layer that are there because something was written: folders that only lead there are not named. */
function placesWritten({ written, path }: Layer): readonly string[] {
  const top = openFolder(written);
  try {
    return namesAt(top, mostNames).map((name) => (path === '.' ? name : `${path}/${name}`));
  } finally {
    closeSync(top);
  }
}
