import { closeSync } from 'node:fs';
import { type RecipeStep, terminalText } from '@vaquero/core';
import { openFolder } from '../descriptors/beneath.ts';
import { namesAt } from '../descriptors/list-beneath.ts';
import type { StepLayers } from '../sources/step-layers.ts';
import type { Mount } from '../walls/wall-arguments.ts';
import type { StepLog } from './step-log.ts';

const mostPlaces = 5;
const mostNames = 50;

/**
 * Says what a step wrote beside what it hands on, since that goes with it. `under` is the folder below its mounts;
 * what stands there or over a layer only for a mount to stand on was not written by it.
 */
export function sayThrownAway(
  step: RecipeStep,
  mounts: readonly Mount[],
  under: string | null,
  layers: StepLayers | null,
  log: StepLog,
): void {
  const places = [...(layers?.written() ?? []), ...(under === null ? [] : namesIn(under))].filter(
    (path) => !mounts.some(({ at }) => `${at}/`.startsWith(`/build/${path}/`)),
  );
  if (places.length === 0) return;
  // Their names are the build's own words: they begin no line and steer no terminal.
  const named = places
    .slice(0, mostPlaces)
    .map((path) => terminalText(path, false).replace(/\n/g, ' '));
  const more = places.length > mostPlaces ? ' and more' : '';
  log.say(
    `thrown away: what step ${step.name} wrote to ${named.join(', ')}${more}; a folder that is to be kept between builds is named under caches`,
  );
}

function namesIn(folder: string): readonly string[] {
  const top = openFolder(folder);
  try {
    return namesAt(top, mostNames);
  } finally {
    closeSync(top);
  }
}
