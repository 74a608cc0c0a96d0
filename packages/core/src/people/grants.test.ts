import assert from 'node:assert/strict';
import test from 'node:test';
import fc from 'fast-check';
import { decideGrant, decideInvitation, decideNewcomer, roleIn } from './grants.ts';
import { type Grant, type HeldGrant, type Role, roles } from './may.ts';

const project = { id: 'j1', name: 'timetable' };
const height = (role: Role | null): number => (role === null ? -1 : roles.indexOf(role));
const grant = fc.record(
  {
    project: fc.option(fc.constantFrom('j1', 'j2')),
    role: fc.constantFrom(...roles),
    group: fc.constantFrom(null, 'release-desk'),
  },
  { noNullPrototype: true },
);
const grants: fc.Arbitrary<HeldGrant[]> = fc.uniqueArray(grant, {
  selector: (one) => `${one.project} ${one.group}`,
  maxLength: 3,
});

const common = new Set(['leavemealone']);

test('nobody gives or takes more than they have, and a grant everywhere is narrowed nowhere', () => {
  fc.assert(
    fc.property(grants, grants, fc.option(fc.constantFrom(...roles)), (granter, has, role) => {
      const kind = 'person' as const;
      const wish = { project, granter, person: 'noor', kind, has, role, otherOperators: 1 };
      const decision = decideGrant(wish);
      if (!decision.ok) return;
      const isOwn = (one: HeldGrant): boolean => one.project === project.id && one.group === null;
      const here = has.find(isOwn)?.role ?? null;
      const own = height(roleIn(granter, project.id));
      assert.ok(height(role) <= own && height(here) <= own);
      assert.equal(decision.value.before, here);
      const after: Grant[] = has.filter((one) => !isOwn(one));
      if (role !== null) after.push({ project: project.id, role });
      // What somebody asked for is what comes of it, unless they have more everywhere, or a grant of their own ends beside a group's.
      const everywhere = roleIn(has, null);
      const left = role === null ? roleIn(after, project.id) : everywhere;
      assert.equal(height(roleIn(after, project.id)), Math.max(height(role), height(left)));
    }),
  );
});

test('the last operator stays one', () => {
  const operator: HeldGrant[] = [{ project: null, role: 'operator', group: null }];
  const kind = 'person' as const;
  const wish = {
    project: null,
    granter: operator,
    person: 'ines',
    kind,
    has: operator,
    role: null,
  };
  const last = decideGrant({ ...wish, otherOperators: 0 });
  assert.ok(!last.ok && last.refusal.code === 'last-operator');
  assert.ok(decideGrant({ ...wish, otherOperators: 1 }).ok);
  assert.ok(decideGrant({ ...wish, role: 'operator', otherOperators: 0 }).ok);
  // In a project an operator is no less for what is granted there.
  const narrowed = decideGrant({ ...wish, project, role: 'reader', otherOperators: 5 });
  assert.ok(!narrowed.ok && narrowed.refusal.code === 'granted-everywhere');
});

test('what a group gives is taken by leaving it, and neither groups nor programs operate', () => {
  const granter: Grant[] = [{ project: null, role: 'operator' }];
  const byGroup: HeldGrant = { project: 'j1', role: 'releaser', group: 'release-desk' };
  const own: HeldGrant = { project: 'j1', role: 'builder', group: null };
  const wish = { project, granter, person: 'noor', kind: 'person' as const, otherOperators: 1 };
  const less = decideGrant({ ...wish, has: [byGroup], role: null });
  assert.ok(!less.ok && less.refusal.code === 'granted-by-group');
  assert.ok(!decideGrant({ ...wish, has: [byGroup], role: 'reader' }).ok);
  assert.ok(decideGrant({ ...wish, has: [byGroup], role: 'maintainer' }).ok);
  assert.ok(decideGrant({ ...wish, has: [byGroup, own], role: null }).ok);
  const everywhere = { ...wish, project: null, has: [], role: 'operator' as const };
  for (const kind of ['group', 'service'] as const) {
    const decision = decideGrant({ ...everywhere, kind });
    assert.ok(!decision.ok && decision.refusal.code === 'only-people-operate');
  }
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
  assert.ok(decideNewcomer('noor', 'ferry to Orrin at nine', common).ok);
  const cases = [
    ['Noor', 'ferry to Orrin at nine', 'name-invalid'],
    ['n', 'ferry to Orrin at nine', 'name-invalid'],
    ['nobody', 'ferry to Orrin at nine', 'name-invalid'],
    ['operator', 'ferry to Orrin at nine', 'name-invalid'],
    ['noor', 'short', 'password-weak'],
    ['noor', 'LeaveMeAlone', 'password-weak'],
    ['noor', 'my name is Noor here', 'password-weak'],
    ['noor', 'aaaaaaaaaaaabbbbb', 'password-weak'],
  ] as const;
  for (const [name, password, code] of cases) {
    const decision = decideNewcomer(name, password, common);
    assert.ok(!decision.ok && decision.refusal.code === code, `${name} ${password}`);
  }
});
