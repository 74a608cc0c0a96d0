import { type ClassValue, clsx } from 'clsx';
import { extendTailwindMerge } from 'tailwind-merge';

const merged = extendTailwindMerge({
  extend: {
    classGroups: {
      'font-size': [{ text: ['axis', 'small', 'body', 'name', 'place', 'section', 'answer'] }],
    },
  },
});

/** Joins class names; of two that set the same property the last stays. */
export function merge(...classes: readonly ClassValue[]): string {
  return merged(clsx(classes));
}
