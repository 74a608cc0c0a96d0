import { addPerson, type Deps } from '@vaquero/service';

/** An operator who signs in with a password. */
export const tomas = { name: 'tomas', shownAs: 'Tomas Revik', password: 'lune quay' } as const;

/** Adds an operator who signs in with a password, and returns the id. */
export function addOperator(service: { readonly deps: Deps }, person = tomas): Promise<string> {
  return addPerson(service.deps, { ...person, role: 'operator' });
}
