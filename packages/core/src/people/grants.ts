import { allow, type Decision, refuse } from '../decision.ts';
import { type Grant, type HeldGrant, type MemberKind, type Role, roles } from './may.ts';

/** The highest role that grants reach in a project (null: in the installation); null where they reach none. */
export function roleIn(grants: readonly Grant[], project: string | null): Role | null {
  const reached = grants.filter((grant) => grant.project === null || grant.project === project);
  return roles.findLast((role) => reached.some((grant) => grant.role === role)) ?? null;
}

/** A role that somebody would have from now on in a project, or in the installation; null where they would have none. */
export interface GrantWish {
  readonly project: { readonly id: string; readonly name: string } | null;
  readonly granter: readonly Grant[];
  /** Who it is granted to, by name, what that is, and what they have now. */
  readonly person: string;
  readonly kind: MemberKind;
  readonly has: readonly HeldGrant[];
  readonly role: Role | null;
  /** How many operators there are besides them. */
  readonly otherOperators: number;
}

/**
 * Decides whether somebody may change what another person may do: they give nothing above their own role, and take
 * nothing from whoever stands above them; an installation keeps an operator, and operators are people.
 * Refuses: above-own-role, last-operator, granted-everywhere, granted-by-group, only-people-operate.
 */
export function decideGrant(wish: GrantWish): Decision<{ readonly before: Role | null }> {
  const { project, granter, has, role, person } = wish;
  const id = project?.id ?? null;
  const own = roleIn(granter, id);
  const height = (one: Role | null): number => (one === null ? -1 : roles.indexOf(one));
  const here = has.find((grant) => grant.project === id && grant.group === null)?.role ?? null;
  if (role === 'operator' && wish.kind !== 'person')
    return refuse({ code: 'only-people-operate', name: person });
  const reached = roleIn(has, id);
  // What is granted for the whole installation is neither widened nor narrowed in one project.
  if (
    project !== null &&
    height(roleIn(has, null)) > height(here) &&
    height(role) < height(reached)
  )
    return refuse({ code: 'granted-everywhere', person, role: reached ?? 'reader' });
  // What a group gives is taken by leaving it. A grant of one's own that is beside it may still end.
  const byGroup = has.filter((grant) => grant.project === id && grant.group !== null);
  const most = roleIn(byGroup, id);
  const group = byGroup.find((grant) => grant.role === most)?.group ?? null;
  const isEndOfOwn = role === null && here !== null;
  if (group !== null && most !== null && height(role) < height(most) && !isEndOfOwn)
    return refuse({ code: 'granted-by-group', person, role: most, group });
  const highest = height(role) > height(here) ? role : here;
  if (height(highest) > height(own))
    return refuse({ code: 'above-own-role', person, role: highest ?? 'reader', own });
  const isOperator = project === null && here === 'operator' && role !== 'operator';
  if (isOperator && wish.otherOperators === 0) return refuse({ code: 'last-operator', person });
  return allow({ before: here });
}

/** Decides whether somebody may invite others to a role. Refuses: above-own-role. */
export function decideInvitation(
  granter: readonly Grant[],
  project: string | null,
  role: Role,
): Decision<Role> {
  const own = roleIn(granter, project);
  return own !== null && roles.indexOf(own) >= roles.indexOf(role)
    ? allow(role)
    : refuse({ code: 'above-own-role', person: null, role, own });
}

const nameRule =
  '2 to 40 of a–z, 0–9 and single hyphens, beginning with a letter and not ending in a hyphen';
/** Words that maps and commands use for something else. */
const reserved = new Set<string>(['nobody', 'vaquero', 'operators', 'everybody', ...roles]);
export const leastLetters = 12;

/** Checks the name and password that somebody chooses. Refuses: name-invalid, password-weak. */
export function decideNewcomer(
  name: string,
  password: string,
  common: ReadonlySet<string>,
): Decision<string> {
  const named = decideName(name);
  return named.ok ? decidePassword(name, password, common) : named;
}

/** Checks the name of a person, a group or a service, which share one name space. Refuses: name-invalid. */
export function decideName(name: string): Decision<string> {
  if (!/^[a-z](?:-?[a-z0-9])+$/.test(name) || name.length > 40)
    return refuse({ code: 'name-invalid', name, rule: nameRule });
  if (reserved.has(name))
    return refuse({ code: 'name-invalid', name, rule: 'a name that stands for nothing else' });
  return allow(name);
}

/** Checks a password that somebody of a name chooses: long, and not guessed at once. Refuses: password-weak. */
export function decidePassword(
  name: string,
  password: string,
  common: ReadonlySet<string>,
): Decision<string> {
  if ([...password].length < leastLetters)
    return refuse({ code: 'password-weak', why: `has fewer than ${leastLetters} letters` });
  if (password.toLowerCase().includes(name))
    return refuse({ code: 'password-weak', why: 'has the name in it' });
  if (common.has(password.toLowerCase()))
    return refuse({ code: 'password-weak', why: 'is one of those that many people have' });
  return new Set(password).size < 5
    ? refuse({ code: 'password-weak', why: 'is the same few letters again and again' })
    : allow(name);
}
