import type { AnyRoute } from '@vaquero/contracts';
import * as contracts from '@vaquero/contracts';

/** Every group of routes that contracts exports: one that is added is found here without being named. */
export const everyRoute: readonly (readonly [string, AnyRoute])[] = Object.entries(contracts)
  .filter(([name]) => name.endsWith('Routes'))
  .flatMap(([, group]) =>
    Object.entries(group)
      .filter(([, value]) => typeof value === 'object' && 'method' in value && 'access' in value)
      .map(([name, value]) => [name, value as AnyRoute] as const),
  );
