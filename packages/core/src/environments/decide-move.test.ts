import assert from 'node:assert/strict';
import test from 'node:test';
import fc from 'fast-check';
import type { Digest } from '../digest.ts';
import type { Instant } from '../instant.ts';
import type { LedgerEntry } from '../releases/ledger.ts';
import { liveAt, liveForMs, undoneNumbers } from '../releases/ledger.ts';
import {
  decideAutomaticDeploy,
  decideEntry,
  decideLetIn,
  decidePromotion,
  decideRollback,
  type EnvironmentNow,
  findWayBack,
  type Served,
} from './decide-move.ts';

const bytes = (letter: string): Digest => letter.repeat(64) as Digest;
const at = (minute: number): Instant => (minute * 60_000) as Instant;

function serving(letter: string, more: Partial<Served> = {}): Served {
  return {
    deploy: 1,
    artifact: bytes(letter),
    build: 1,
    intake: 1,
    by: 'Ines',
    at: at(1),
    ...more,
  };
}

function anEnvironment(more: Partial<EnvironmentNow> = {}): EnvironmentNow {
  return { name: 'production', generation: 3, serves: serving('a'), hold: null, ...more };
}

function entry(number: number, letter: string, more: Partial<LedgerEntry> = {}): LedgerEntry {
  return {
    number,
    kind: 'promoted',
    artifact: bytes(letter),
    build: number * 10,
    committedAt: at(number),
    undoes: null,
    kept: true,
    ...more,
  };
}

const hold = { by: 'Jonas', since: at(5), reason: 'Search finds nothing.' };

test('an automatic deploy moves only from a lower intake to a higher one', () => {
  fc.assert(
    fc.property(fc.nat(50), fc.nat(50), (served, intake) => {
      const decision = decideAutomaticDeploy(
        anEnvironment({ serves: serving('a', { intake: served }) }),
        intake,
      );
      assert.equal(decision.ok, intake > served);
      if (!decision.ok) assert.equal(decision.refusal.code, 'overtaken');
    }),
  );
});

test('a hold stops automatic deploys and promotions, not a rollback', () => {
  const held = anEnvironment({ hold, serves: serving('b', { deploy: 2 }) });
  const automatic = decideAutomaticDeploy(held, 99);
  assert.ok(
    !automatic.ok &&
      automatic.refusal.code === 'environment-held' &&
      automatic.refusal.reason === hold.reason,
  );
  const source = anEnvironment({ name: 'staging', serves: serving('c') });
  const promotion = decidePromotion({
    target: held,
    source,
    acceptsFrom: 'staging',
    artifact: bytes('c'),
    before: null,
    seen: { generation: 3, artifact: bytes('b') },
  });
  assert.ok(!promotion.ok && promotion.refusal.code === 'environment-held');
  assert.ok(
    decideRollback(held, [entry(1, 'a'), entry(2, 'b')], null, {
      generation: 3,
      artifact: bytes('b'),
    }).ok,
  );
});

test('what passed enters by itself only where no word is asked for and those bytes were served first', () => {
  fc.assert(
    fc.property(
      fc.nat(9),
      fc.nat(9),
      fc.boolean(),
      fc.boolean(),
      (served, intake, isServedFirst, isOnWord) => {
        const environment = anEnvironment({ serves: serving('a', { intake: served }) });
        const enters = isOnWord ? 'on-word' : 'by-itself';
        const entry = decideEntry({ environment, intake, isServedFirst, enters });
        assert.equal(entry === 'enters', !isOnWord && isServedFirst && intake > served);
        assert.equal(entry === 'offered', isOnWord && isServedFirst);
        // What is older than what is served waits for nothing, or it would wait for ever.
        assert.equal(entry === 'overtaken', !isOnWord && intake <= served);
      },
    ),
  );
});

test('a word lets in what is offered, as it was seen, and nothing while it is held', () => {
  const offer = { build: 7, artifact: bytes('c'), isOffered: true, kept: true };
  const seen = { generation: 3, artifact: bytes('a') };
  // It may be older than what a rollback counts as: the word names it.
  const later = anEnvironment({ serves: serving('a', { intake: 99 }) });
  assert.deepEqual(decideLetIn(later, offer, seen), { ok: true, value: bytes('c') });
  const cases = [
    [later, { ...offer, isOffered: false }, seen, 'not-offered'],
    [later, { ...offer, artifact: null }, seen, 'not-offered'],
    [anEnvironment({ hold }), offer, seen, 'environment-held'],
    [later, offer, { ...seen, generation: 2 }, 'environment-moved'],
    [later, { ...offer, kept: false }, seen, 'artifact-gone'],
  ] as const;
  for (const [environment, one, eyes, code] of cases) {
    const decision = decideLetIn(environment, one, eyes);
    assert.ok(!decision.ok && decision.refusal.code === code, code);
  }
});

test('a promotion moves the very bytes that were seen, and is refused with what changed otherwise', () => {
  const target = anEnvironment();
  const source = anEnvironment({ name: 'staging', serves: serving('c', { deploy: 9, build: 7 }) });
  const asked = {
    target,
    source,
    acceptsFrom: 'staging',
    artifact: bytes('c'),
    before: null,
    seen: { generation: 3, artifact: bytes('a') },
  };
  const good = decidePromotion(asked);
  assert.ok(good.ok && good.value.deploy === 9);
  // What was looked at may be promoted though something newer was pushed meanwhile.
  const before = { deploy: 8, build: 6, undone: false, kept: true };
  const earlier = decidePromotion({ ...asked, artifact: bytes('d'), before });
  assert.ok(earlier.ok && earlier.value.deploy === 8);
  const cases = [
    [{ ...asked, seen: { generation: 2, artifact: bytes('f') } }, 'environment-moved'],
    [{ ...asked, artifact: bytes('d') }, 'environment-moved'],
    [{ ...asked, artifact: bytes('d'), before: { ...before, undone: true } }, 'undone-there'],
    [{ ...asked, artifact: bytes('d'), before: { ...before, kept: false } }, 'artifact-gone'],
    [{ ...asked, artifact: bytes('a'), before }, 'already-serves'],
    [{ ...asked, acceptsFrom: 'rehearsal' }, 'accepts-from'],
    [{ ...asked, source: { ...source, serves: null } }, 'environment-serves-nothing'],
    [{ ...asked, target: { ...target, serves: serving('c') } }, 'already-serves'],
  ] as const;
  for (const [promotion, code] of cases) {
    const decision = decidePromotion(promotion);
    assert.ok(!decision.ok);
    assert.equal(decision.refusal.code, code);
  }
});

test('the way back is the latest kept deploy of other bytes that no rollback has undone', () => {
  const environment = anEnvironment({ serves: serving('d', { deploy: 4 }) });
  const plain = findWayBack(
    environment,
    [entry(1, 'a'), entry(2, 'b'), entry(3, 'c'), entry(4, 'd')],
    null,
  );
  assert.ok(plain.ok);
  assert.deepEqual([plain.value.target.number, plain.value.undoes], [3, { first: 4, last: 4 }]);

  const swept = findWayBack(
    environment,
    [entry(1, 'a'), entry(2, 'b'), entry(3, 'c', { kept: false }), entry(4, 'd')],
    null,
  );
  assert.ok(swept.ok && swept.value.target.number === 2);

  // 3 was rolled back to 1 by 4: from there on, 2 and 3 are no way back
  const undone = [
    entry(1, 'a'),
    entry(2, 'b'),
    entry(3, 'c'),
    entry(4, 'a', { kind: 'rolled-back', undoes: { first: 2, last: 3 } }),
  ];
  const again = findWayBack(anEnvironment({ serves: serving('a', { deploy: 4 }) }), undone, null);
  assert.ok(!again.ok && again.refusal.code === 'no-way-back' && again.refusal.asked === null);
});

test('a wish names its deploy or build, undone or not', () => {
  const ledger = [
    entry(1, 'a'),
    entry(2, 'b'),
    entry(3, 'a', { kind: 'rolled-back', undoes: { first: 2, last: 2 } }),
  ];
  const environment = anEnvironment({ serves: serving('a', { deploy: 3 }) });
  const byDeploy = findWayBack(environment, ledger, { deploy: 2 });
  assert.ok(byDeploy.ok && byDeploy.value.target.artifact === bytes('b'));
  const byBuild = findWayBack(environment, ledger, { build: 20 });
  assert.ok(byBuild.ok && byBuild.value.target.number === 2);
  const same = findWayBack(environment, ledger, { deploy: 1 });
  assert.ok(!same.ok && same.refusal.code === 'already-serves');
  const gone = findWayBack(
    environment,
    [entry(1, 'a'), entry(2, 'b', { kept: false }), entry(3, 'a')],
    { deploy: 2 },
  );
  assert.ok(!gone.ok && gone.refusal.code === 'artifact-gone');
});

test('promote then roll back serves the bytes from before, whatever came before', () => {
  fc.assert(
    fc.property(
      fc.array(fc.constantFrom('a', 'b', 'c', 'd'), { minLength: 1, maxLength: 12 }),
      (letters) => {
        const changes = letters.filter(
          (letter, place) => place === 0 || letter !== letters[place - 1],
        );
        const ledger = [
          ...changes.map((letter, place) => entry(place + 1, letter)),
          entry(changes.length + 1, 'f'),
        ];
        const back = findWayBack(
          anEnvironment({ serves: serving('f', { deploy: ledger.length }) }),
          ledger,
          null,
        );
        assert.ok(back.ok);
        assert.equal(back.value.target.artifact, bytes(changes.at(-1) ?? ''));
      },
    ),
  );
});

test('a rollback decided on an old view is refused, and so is one where nothing is served', () => {
  const environment = anEnvironment({ serves: serving('b', { deploy: 2 }) });
  const ledger = [entry(1, 'a'), entry(2, 'b')];
  for (const seen of [
    { generation: 2, artifact: bytes('b') },
    { generation: 3, artifact: bytes('a') },
  ]) {
    const decision = decideRollback(environment, ledger, null, seen);
    assert.ok(
      !decision.ok &&
        decision.refusal.code === 'environment-moved' &&
        decision.refusal.now === bytes('b'),
    );
  }
  const nothing = decideRollback(anEnvironment({ serves: null }), [], null, {
    generation: 3,
    artifact: null,
  });
  assert.ok(!nothing.ok && nothing.refusal.code === 'environment-serves-nothing');
});

test('a ledger tells what was live at any instant, for how long, and what is undone', () => {
  const ledger = [entry(1, 'a'), entry(2, 'b'), entry(5, 'c', { undoes: { first: 2, last: 4 } })];
  assert.equal(liveAt(ledger, at(0)), undefined);
  assert.equal(liveAt(ledger, at(1))?.number, 1);
  assert.equal(liveAt(ledger, at(4))?.number, 2);
  assert.deepEqual(liveForMs(ledger, at(9)), [at(1), at(3), at(4)]);
  assert.deepEqual([...undoneNumbers(ledger)], [2, 3, 4]);
});
