import assert from 'node:assert/strict';
import { auditRoutes, mapRoutes, pullRequestRoutes } from '@vaquero/contracts';
import { keepFamilies, projectByName } from '@vaquero/service';
import { sql } from 'drizzle-orm';
import fc from 'fast-check';
import { until } from './place.ts';
import type { TestService } from './service.ts';

const hour = 3_600_000;
const branches = ['try/a', 'try/b', 'lamp'] as const;
type Branch = (typeof branches)[number];

/** Versions of the preview's rule: what it is for, and after how many hours its environments end. */
export const rules = [
  { takes: { tries: true, proposed: ['main', 'harbour'] }, closed: 1, untouched: 6 },
  { takes: { tries: false, proposed: ['main'] }, closed: 1, untouched: 6 },
  { takes: { tries: true, proposed: [] }, closed: 0, untouched: 12 },
  { takes: { tries: false, proposed: ['harbour'] }, closed: 2, untouched: 24 },
] as const;

const textOf = ({ takes, closed, untouched }: (typeof rules)[number]): string => `map: model
format: 1
lanes: [production, staging, preview]
environments:
  production: {accepts: {from: staging}}
  staging: {follows: {branch: main}}
  preview:
    each: {${[
      ...(takes.tries ? ['branch: "try/*"'] : []),
      ...(takes.proposed.length > 0 ? [`proposed-into: [${takes.proposed.join(', ')}]`] : []),
    ].join(', ')}}
    admits: anyone
    ends: {closed: ${closed === 0 ? '0 min' : `${closed} h`}, untouched: ${untouched} h}
`;

export type Event =
  | { readonly does: 'push' | 'delete' | 'propose'; readonly branch: Branch }
  | { readonly does: 'close' | 'reopen' | 'draft' | 'retarget'; readonly which: number }
  | { readonly does: 'end'; readonly which: number }
  | { readonly does: 'map'; readonly which: number };

const branch = fc.constantFrom(...branches);
/** What happens to a project. */
export const happening: fc.Arbitrary<Event> = fc.oneof(
  { weight: 4, arbitrary: fc.record({ does: fc.constant('push' as const), branch }) },
  { weight: 3, arbitrary: fc.record({ does: fc.constant('propose' as const), branch }) },
  { weight: 1, arbitrary: fc.record({ does: fc.constant('delete' as const), branch }) },
  {
    weight: 4,
    arbitrary: fc.record({
      does: fc.constantFrom('close' as const, 'reopen' as const, 'draft' as const),
      which: fc.nat(3),
    }),
  },
  { weight: 1, arbitrary: fc.record({ does: fc.constant('retarget' as const), which: fc.nat(3) }) },
  { weight: 1, arbitrary: fc.record({ does: fc.constant('end' as const), which: fc.nat(3) }) },
  { weight: 2, arbitrary: fc.record({ does: fc.constant('map' as const), which: fc.nat(3) }) },
);

/** Time that passes, for all projects of an installation. */
export const passing: fc.Arbitrary<number> = fc.constantFrom(0.5 * hour, 2 * hour, 7 * hour);

interface Pull {
  readonly branch: Branch;
  head: number;
  into: string;
  isOpen: boolean;
  isDraft: boolean;
}

interface Preview {
  lives: boolean;
  head: number;
  touchedAt: number;
  closedAt: number | null;
  /** What the log says of it. */
  made: number;
  revived: number;
  ended: number;
  /** Why it ended: what brings it back hangs on it. */
  because: 'closed' | 'untouched' | 'asked' | null;
}

/** What the guide says of families, told once more in the plainest way: the service is held against it. */
export class Reference {
  now = 0;
  rule: (typeof rules)[number] = rules[0];
  readonly heads = new Map<Branch, number>();
  readonly pulls: Pull[] = [];
  readonly previews = new Map<string, Preview>();

  /** The commits that the preview's rule wants, by the names of their environments. */
  wanted(): ReadonlyMap<string, number> {
    const { takes } = this.rule;
    const tries = [...this.heads].filter(([name]) => takes.tries && name.startsWith('try/'));
    const proposed = this.pulls.flatMap((pull, index): [string, number][] =>
      pull.isOpen && !pull.isDraft && takes.proposed.some((into) => into === pull.into)
        ? [[`pr-${index + 1}`, pull.head]]
        : [],
    );
    return new Map([
      ...tries.map(([name, head]): [string, number] => [name.replace('/', '-'), head]),
      ...proposed,
    ]);
  }

  settle(): void {
    const wanted = this.wanted();
    for (const [name, one] of this.previews) {
      if (!one.lives) continue;
      const head = wanted.get(name);
      one.closedAt = head === undefined ? (one.closedAt ?? this.now) : null;
      const untouched = one.touchedAt + this.rule.untouched * hour;
      const closed = one.closedAt === null ? Infinity : one.closedAt + this.rule.closed * hour;
      if (Math.min(untouched, closed) > this.now) continue;
      one.lives = false;
      one.ended += 1;
      one.because = closed <= untouched ? 'closed' : 'untouched';
    }
    for (const [name, head] of wanted) {
      const one = this.previews.get(name);
      const isNew = one === undefined || one.head !== head;
      if (!isNew && (one.lives || one.because !== 'closed')) continue;
      this.previews.set(name, {
        lives: true,
        head,
        touchedAt: this.now,
        closedAt: null,
        because: null,
        made: one === undefined ? 1 : one.made,
        revived: (one?.revived ?? 0) + (one === undefined || one.lives ? 0 : 1),
        ended: one?.ended ?? 0,
      });
    }
  }

  /** How often each was made, brought back and ended. */
  told(): Readonly<Record<string, readonly number[]>> {
    return Object.fromEntries(
      [...this.previews]
        .map(([name, { made, revived, ended }]) => [name, [made, revived, ended]] as const)
        .sort(([a], [b]) => (a < b ? -1 : 1)),
    );
  }

  living(): Readonly<Record<string, number>> {
    const lives = [...this.previews].filter(([, one]) => one.lives);
    return Object.fromEntries(
      lives
        .map(([name, { head }]): [string, number] => [name, head])
        .sort(([a], [b]) => (a < b ? -1 : 1)),
    );
  }
}

type Made = Awaited<ReturnType<TestService['project']>>;

/** One project, and the reference beside it: each event happens to both. */
export class Both {
  readonly reference = new Reference();
  readonly commits: string[] = [];
  readonly service: TestService;
  readonly made: Made;
  readonly clock: { now: number };
  readonly params: { readonly project: string };

  constructor(service: TestService, made: Made, clock: { now: number }, project: string) {
    this.service = service;
    this.made = made;
    this.clock = clock;
    this.params = { project };
  }

  /** What happens next; null where only time has passed. */
  async take(one: Event | null): Promise<void> {
    const { reference } = this;
    reference.now = this.clock.now;
    if (one === null) return this.settle();
    if ('branch' in one) await this.happens(one.does, one.branch);
    else if (one.does === 'map') await this.setMap(rules[one.which] ?? rules[0]);
    else if (one.does === 'end') await this.end(one.which);
    else await this.change(one.does, one.which);
    await this.settle();
  }

  async settle(): Promise<void> {
    this.reference.settle();
    // Two that look after the families at once, as two api processes do.
    const { deps } = this.service;
    const project = (await projectByName(deps.db, this.params.project)) ?? assert.fail();
    await Promise.all([keepFamilies(deps, project), keepFamilies(deps, project)]);
  }

  async happens(does: 'push' | 'delete' | 'propose', name: Branch): Promise<void> {
    const { reference, made } = this;
    const head = reference.heads.get(name);
    const open = reference.pulls.filter((pull) => pull.branch === name && pull.isOpen);
    if (does === 'push') {
      await made.copy.git('checkout', '--quiet', '-B', name);
      await made.copy.commit('Changed', { 'tide.txt': String(this.commits.length) });
      const commit = await made.copy.git('rev-parse', 'HEAD');
      await made.copy.git('push', '--quiet', '--force', made.remote, name);
      const number = this.commits.push(commit.trim()) - 1;
      reference.heads.set(name, number);
      for (const pull of open) pull.head = number;
      await this.noticed(name, commit.trim());
    } else if (does === 'delete' && head !== undefined && open.length === 0) {
      await made.copy.git('push', '--quiet', made.remote, `:${name}`);
      reference.heads.delete(name);
      await this.noticed(name, null);
    } else if (does === 'propose' && head !== undefined && open.length === 0) {
      await this.service.operator.call(pullRequestRoutes.openPullRequestRoute, {
        params: this.params,
        body: { branch: name, title: 'Tides', place: null },
      });
      reference.pulls.push({ branch: name, head, into: 'main', isOpen: true, isDraft: false });
    }
  }

  noticed(ref: string, commit: string | null) {
    return until(`${ref} is noticed`, async () => {
      const why = await this.service.operator.call(mapRoutes.whyRoute, {
        params: this.params,
        query: { ref },
      });
      return why.commit === commit;
    });
  }

  async change(does: 'close' | 'reopen' | 'draft' | 'retarget', which: number): Promise<void> {
    const pull = this.reference.pulls[which];
    if (pull === undefined) return;
    const { operator } = this.service;
    const params = { ...this.params, pullRequest: `pr-${which + 1}` };
    if (does === 'close' && pull.isOpen) {
      await operator.call(pullRequestRoutes.closePullRequestRoute, { params });
      pull.isOpen = false;
    } else if (does === 'reopen' && !pull.isOpen) {
      const head = this.reference.heads.get(pull.branch);
      const others = this.reference.pulls.some(
        (one) => one !== pull && one.branch === pull.branch && one.isOpen,
      );
      if (head === undefined || others) return;
      await operator.call(pullRequestRoutes.reopenPullRequestRoute, { params });
      Object.assign(pull, { isOpen: true, head });
    } else if (does === 'draft' && pull.isOpen) {
      pull.isDraft = !pull.isDraft;
      await operator.call(pullRequestRoutes.setDraftRoute, {
        params,
        body: { isDraft: pull.isDraft },
      });
    } else if (does === 'retarget' && pull.isOpen) {
      pull.into = pull.into === 'main' ? 'harbour' : 'main';
      await operator.call(pullRequestRoutes.retargetPullRequestRoute, {
        params,
        body: { into: pull.into },
      });
    }
  }

  async setMap(rule: (typeof rules)[number]): Promise<void> {
    const { text, tag } = await this.service.operator.call(mapRoutes.showMapRoute, {
      params: this.params,
    });
    this.reference.rule = rule;
    if (text === textOf(rule)) return;
    await this.service.operator.call(mapRoutes.setMapRoute, {
      params: this.params,
      body: { text: textOf(rule), reason: 'modelled', ends: [] },
      seen: tag,
    });
  }

  async end(which: number): Promise<void> {
    const name = Object.keys(this.reference.living())[which];
    const own = this.reference.previews.get(name ?? '');
    if (name === undefined || own === undefined) return;
    await this.service.operator.call(mapRoutes.endEnvironmentRoute, {
      params: { ...this.params, environment: name },
    });
    own.lives = false;
    own.ended += 1;
    own.because = 'asked';
  }

  /** What lives, and which commit each has taken notice of. */
  async living(): Promise<Readonly<Record<string, number>>> {
    const [rows] = await this.service.deps.db.execute<Row[]>(
      sql`select e.name, lower(hex(e.head)) as head from environments e join projects p on p.id = e.project_id
          where p.name = ${this.params.project} and e.living and e.ref is not null order by e.name`,
    );
    const own = rows as unknown as readonly Row[];
    return Object.fromEntries(own.map((row) => [row.name, this.commits.indexOf(row.head)]));
  }

  /** What the log says of each: made, brought back, ended, how often. */
  async told(): Promise<Readonly<Record<string, readonly number[]>>> {
    const { entries } = await this.service.operator.call(auditRoutes.auditRoute, {
      params: this.params,
      query: { limit: 200 },
    });
    const kinds = ['environment.made', 'environment.revived', 'environment.ended'];
    const told = new Map<string, number[]>();
    for (const { kind, bytes } of entries) {
      if (!kinds.includes(kind)) continue;
      const { facts } = JSON.parse(bytes) as { facts: { environment: string } };
      const counts = told.get(facts.environment) ?? [0, 0, 0];
      counts[kinds.indexOf(kind)] = (counts[kinds.indexOf(kind)] ?? 0) + 1;
      told.set(facts.environment, counts);
    }
    return Object.fromEntries([...told].sort(([a], [b]) => (a < b ? -1 : 1)));
  }
}

interface Row {
  readonly name: string;
  readonly head: string;
}
