import { chmodSync, closeSync, mkdirSync } from 'node:fs';
import { join } from 'node:path';
import { openFolder } from '../descriptors/beneath.ts';
import { entriesOf } from '../descriptors/list-beneath.ts';
import type { Mount } from '../walls/wall-arguments.ts';
import { type Layered, openLayered } from './layered.ts';

/** Layers over folders that a step sees and that are not its own, so that it may write where its programs expect to. */
export interface StepLayers {
  /** Shows a folder, by its path or by an open descriptor of this process, at a path of the build. */
  readonly show: (lower: string | number, path: string) => Promise<Mount>;
  /** What was written over each, as far as one would name it: it goes with the layer. */
  readonly written: () => readonly string[];
  readonly close: () => Promise<void>;
}

/** Where a build's workplace shows layers: what lies there is counted where it was written. */
export const shownLayers = 'shown';

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
  const [shown, over] = [shownLayers, 'over'].map((folder) => join(workplace, folder, name));
  if (shown === undefined || over === undefined) throw new Error('no folder for layers');
  return {
    show: async (lower, path) => {
      const [at, beside] = [join(shown, String(made)), join(over, String(made))];
      made += 1;
      for (const folder of [over, at]) mkdirSync(folder, { recursive: true, mode: 0o711 });
      const below = typeof lower === 'number' ? `/proc/${process.pid}/fd/${lower}` : lower;
      const layered = await openLayered(below, at, beside, uid);
      chmodSync(layered.written, 0o755);
      layers.push({ ...layered, path });
      return { from: at, at: path === '.' ? '/build' : `/build/${path}`, writable: true };
    },
    written: () => layers.flatMap(placesWritten),
    close: async () => {
      // The last one first: it may lie over another.
      for (const layer of layers.splice(0).toReversed()) await layer.close();
    },
  };
}

/** The first places below a layer that are there because something was written: folders that only lead there are not named. */
function placesWritten({ written, path }: Layer): readonly string[] {
  const top = openFolder(written);
  try {
    return entriesOf(top).map(({ name }) => (path === '.' ? name : `${path}/${name}`));
  } finally {
    closeSync(top);
  }
}
