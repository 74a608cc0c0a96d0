import { useQuery } from '@tanstack/react-query';
import { type Ability, leastRoleFor, may } from '@vaquero/core';
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
