import assert from 'node:assert/strict';
import test from 'node:test';
import fc from 'fast-check';
import { decideGrant, decideInvitation, decideNewcomer, roleIn } from './grants.ts';
import { type Grant, type Role, roles } from './may.ts';

const project = { id: 'j1', name: 'timetable' };
const height = (role: Role | null): number => (role === null ? -1 : roles.indexOf(role));
const grant = fc.record(
  {
    project: fc.option(fc.constantFrom('j1', 'j2')),
    role: fc.constantFrom(...roles),
  },
  { noNullPrototype: true },
);
const grants = fc.uniqueArray(grant, { selector: (one) => one.project, maxLength: 3 });

test('nobody gives or takes more than they have, and a grant everywhere is narrowed nowhere', () => {
  fc.assert(
    fc.property(grants, grants, fc.option(fc.constantFrom(...roles)), (granter, has, role) => {
      const wish = { project, granter, person: 'noor', has, role, otherOperators: 1 };
      const decision = decideGrant(wish);
      if (!decision.ok) return;
      const here = has.find((one) => one.project === project.id)?.role ?? null;
      const own = height(roleIn(granter, project.id));
      assert.ok(height(role) <= own && height(here) <= own);
      assert.equal(decision.value.before, here);
      const after: Grant[] = has.filter((one) => one.project !== project.id);
      if (role !== null) after.push({ project: project.id, role });
      // What somebody asked for is what comes of it, unless they have more everywhere.
      const everywhere = has.find((one) => one.project === null)?.role ?? null;
      assert.equal(height(roleIn(after, project.id)), Math.max(height(role), height(everywhere)));
    }),
  );
});

test('the last operator stays one', () => {
  const operator: Grant[] = [{ project: null, role: 'operator' }];
  const wish = { project: null, granter: operator, person: 'ines', has: operator, role: null };
  const last = decideGrant({ ...wish, otherOperators: 0 });
  assert.ok(!last.ok && last.refusal.code === 'last-operator');
  assert.ok(decideGrant({ ...wish, otherOperators: 1 }).ok);
  assert.ok(decideGrant({ ...wish, role: 'operator', otherOperators: 0 }).ok);
  // In a project an operator is no less for what is granted there.
  const narrowed = decideGrant({ ...wish, project, role: 'reader', otherOperators: 5 });
  assert.ok(!narrowed.ok && narrowed.refusal.code === 'granted-everywhere');
});

test('nobody invites to more than they are', () => {
  fc.assert(
    fc.property(grants, fc.constantFrom(...roles), (granter, role) => {
      const isAllowed = decideInvitation(granter, project.id, role).ok;
      assert.equal(isAllowed, height(roleIn(granter, project.id)) >= height(role));
    }),
  );
});

test('a newcomer has a name that is theirs alone to read, and a password that is not guessed at once', () => {
  assert.ok(decideNewcomer('noor', 'ferry to Orrin at nine').ok);
  const cases = [
    ['Noor', 'ferry to Orrin at nine', 'name-invalid'],
    ['n', 'ferry to Orrin at nine', 'name-invalid'],
    ['nobody', 'ferry to Orrin at nine', 'name-invalid'],
    ['operator', 'ferry to Orrin at nine', 'name-invalid'],
    ['noor', 'short', 'password-weak'],
    ['noor', 'my name is Noor here', 'password-weak'],
    ['noor', 'aaaaaaaaaaaabbbbb', 'password-weak'],
  ] as const;
  for (const [name, password, code] of cases) {
    const decision = decideNewcomer(name, password);
    assert.ok(!decision.ok && decision.refusal.code === code, `${name} ${password}`);
  }
});
