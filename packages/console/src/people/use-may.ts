import { useQuery } from '@tanstack/react-query';
import type { EnvironmentSeen } from '@vaquero/contracts';
import { type Ability, isAmong, leastRoleFor, type MapAct, may, whoInWords } from '@vaquero/core';
import { mine } from './mine.ts';

/** What a person may do here; where not, `why` says what it takes. What is not allowed is shown shut, with that. */
export interface Allowed {
  readonly may: boolean;
  readonly why: string;
}

/** Whether who is signed in has an ability in a project. */
export function useMay(project: string, ability: Ability): Allowed {
  const { data } = useQuery(mine);
  return {
    may: may(data?.grants ?? [], ability, project),
    why: `This takes a ${leastRoleFor[ability]} of ${project}.`,
  };
}

/** What a person may do to an environment, and who may. */
export interface MayAct {
  readonly may: boolean;
  readonly who: string;
}

/** Whether who is signed in may do something to an environment: the map says who may. */
export function useMayAct(
  project: string,
  { may: allowed }: Pick<EnvironmentSeen, 'may'>,
  act: Exclude<MapAct, 'values'>,
): MayAct {
  const { data } = useQuery(mine);
  const who = allowed[act];
  return {
    may: data !== undefined && isAmong(who, data, project),
    who: whoInWords(who),
  };
}
