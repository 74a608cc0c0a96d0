import assert from 'node:assert/strict';
import test from 'node:test';
import fc from 'fast-check';
import { recipesFor } from '../recipes/for-ref.ts';
import {
  decideVerdict,
  decideWord,
  endSeen,
  nameOfPullRequest,
  nameOfRef,
  type PullRequest,
  pullRequestOf,
  readPullRequestName,
  refOfPullRequest,
  trustOf,
} from './pull-request.ts';
import { type CommitId, type RefName, readRefName } from './ref-name.ts';

const commit = (digit: string) => digit.repeat(40) as CommitId;
const aPullRequest = (change: Partial<PullRequest> = {}): PullRequest => ({
  number: 3,
  into: 'main',
  from: { place: 'https://elsewhere.example/fork.git', branch: 'fares' },
  state: 'open',
  isDraft: false,
  head: commit('a'),
  ...change,
});

test('a pull request has one ref and one name, and each is read as it was written', () => {
  fc.assert(
    fc.property(fc.integer({ min: 1, max: 999_999_999 }), (number) => {
      const ref = refOfPullRequest(number);
      assert.equal(readRefName(ref), ref, 'Git takes it');
      assert.equal(pullRequestOf(ref), number);
      assert.equal(readPullRequestName(nameOfPullRequest(number)), number);
      assert.equal(nameOfRef(ref), nameOfPullRequest(number));
    }),
  );
  for (const ref of ['refs/proposed/0', 'refs/proposed/03', 'refs/proposed/3/x', 'refs/heads/pr-3'])
    assert.equal(pullRequestOf(ref), undefined, ref);
  for (const name of ['pr-0', 'pr-', '3', 'PR-3', 'pr-3 '])
    assert.equal(readPullRequestName(name), undefined, name);
  assert.equal(nameOfRef('refs/heads/try/pr-3'), 'try/pr-3');
  assert.equal(nameOfRef('refs/tags/v1.2'), 'v1.2');
});

test('a word is for the commit that an open outsider’s pull request stands at, and for no other', () => {
  const codeOf = (pull: PullRequest, named = commit('a')) => {
    const decision = decideWord(pull, named);
    return decision.ok ? decision.value : decision.refusal.code;
  };
  assert.equal(codeOf(aPullRequest()), commit('a'));
  assert.equal(codeOf(aPullRequest(), commit('b')), 'pull-request-moved');
  assert.equal(codeOf(aPullRequest({ head: null })), 'pull-request-moved');
  assert.equal(codeOf(aPullRequest({ state: 'merged' })), 'pull-request-ended');
  assert.equal(codeOf(aPullRequest({ state: 'closed' })), 'pull-request-ended');
  const own = aPullRequest({ from: { place: null, branch: 'fares' } });
  assert.equal(trustOf(own.from), 'trusted');
  assert.equal(codeOf(own), 'no-word-needed');
});

test('what is merged is merged, even if its branch is gone', () => {
  assert.equal(endSeen({ isMerged: true, isGone: true }), 'merged');
  assert.equal(endSeen({ isMerged: true, isGone: false }), 'merged');
  assert.equal(endSeen({ isMerged: false, isGone: true }), 'closed');
  assert.equal(endSeen({ isMerged: false, isGone: false }), null);
});

test('a recipe is for a pull request by what it would be merged into, not by its branch or name', () => {
  const recipe = (proposedInto: readonly string[]) => ({
    recipe: { for: { branch: ['*'], tag: ['*'], proposedInto }, serve: null } as never,
  });
  const ref: RefName = refOfPullRequest(3);
  const chosen = (into: string | null, ...patterns: string[]) => {
    const choice = recipesFor([recipe(patterns)], ref, false, into);
    return 'chosen' in choice && choice.chosen.length === 1;
  };
  assert.equal(chosen('main', 'main'), true);
  assert.equal(chosen('release/2', 'main', 'release/*'), true);
  assert.equal(chosen('next', 'main'), false);
  assert.equal(chosen(null, 'main'), false);
});

test('a verdict is on the commit that was looked at, while it may still be merged', () => {
  const said = (pull: PullRequest, on: CommitId) => {
    const decided = decideVerdict(pull, on);
    return decided.ok ? 'taken' : decided.refusal.code;
  };
  const pull = aPullRequest({});
  assert.equal(said(pull, pull.head as CommitId), 'taken');
  assert.equal(said(pull, 'f'.repeat(40) as CommitId), 'pull-request-moved');
  assert.equal(
    said(aPullRequest({ state: 'closed' }), pull.head as CommitId),
    'pull-request-ended',
  );
});
