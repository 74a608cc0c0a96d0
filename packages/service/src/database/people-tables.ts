import { memberKinds, roles, type Scope } from '@vaquero/core';
import { sql } from 'drizzle-orm';
import {
  index,
  int,
  json,
  mysqlEnum,
  mysqlTable,
  primaryKey,
  uniqueIndex,
  varchar,
} from 'drizzle-orm/mysql-core';
import { bytes, digest, id, instant, noId } from './columns.ts';
import { projects } from './repository-tables.ts';

/** People, groups of them, and services of a project: one name space, as a map's `may` names any of them. */
export const people = mysqlTable(
  'people',
  {
    id: id('id').primaryKey(),
    name: varchar('name', { length: 100 }).notNull(),
    shownAs: varchar('shown_as', { length: 200 }).notNull(),
    passwordHash: varchar('password_hash', { length: 255 }),
    madeAt: instant('made_at').notNull(),
    kind: mysqlEnum('kind', memberKinds).notNull().default('person'),
    /** The project of a service. */
    homeId: id('home_id').references(() => projects.id),
    /** When a group or a service ended. Its name is given to nobody else, since maps may name it. */
    endedAt: instant('ended_at'),
  },
  (t) => [uniqueIndex('people_name').on(t.name), index('people_home').on(t.homeId)],
);

export const grants = mysqlTable(
  'grants',
  {
    id: id('id').primaryKey(),
    personId: id('person_id')
      .notNull()
      .references(() => people.id),
    projectId: id('project_id').references(() => projects.id),
    role: mysqlEnum('role', roles).notNull(),
    /** The project, or for the whole installation the id that nothing has: of what may be null no key is unique. */
    on: id('on_what').generatedAlwaysAs(sql.raw(`(ifnull(project_id, '${noId}'))`), {
      mode: 'stored',
    }),
  },
  (t) => [uniqueIndex('grants_once').on(t.personId, t.on)],
);

/** Who is in which group. */
export const groupMembers = mysqlTable(
  'group_members',
  {
    groupId: id('group_id')
      .notNull()
      .references(() => people.id),
    personId: id('person_id')
      .notNull()
      .references(() => people.id),
    since: instant('since').notNull(),
  },
  (t) => [
    primaryKey({ columns: [t.groupId, t.personId] }),
    index('group_members_person').on(t.personId),
  ],
);

export const sessions = mysqlTable(
  'sessions',
  {
    hash: digest('hash').primaryKey(),
    personId: id('person_id')
      .notNull()
      .references(() => people.id),
    madeAt: instant('made_at').notNull(),
    expiresAt: instant('expires_at').notNull(),
  },
  (t) => [index('sessions_expires').on(t.expiresAt)],
);

export const tokens = mysqlTable(
  'tokens',
  {
    id: id('id').primaryKey(),
    hash: digest('hash').notNull(),
    personId: id('person_id')
      .notNull()
      .references(() => people.id),
    name: varchar('name', { length: 200 }).notNull(),
    kind: mysqlEnum('kind', ['all', 'git']).notNull(),
    madeAt: instant('made_at').notNull(),
    expiresAt: instant('expires_at').notNull(),
    lastUsedAt: instant('last_used_at'),
    revokedAt: instant('revoked_at'),
    /** The token that it was made with; it goes when that one is taken back. */
    madeWith: id('made_with'),
    /** What it is narrowed to; null for all that its person may. */
    scope: json('scope').$type<Scope | null>(),
  },
  (t) => [
    uniqueIndex('tokens_hash').on(t.hash),
    index('tokens_person').on(t.personId),
    index('tokens_made_with').on(t.madeWith),
  ],
);

/** Second factors: the secret that codes are made of, sealed with a key outside the database. */
export const secondFactors = mysqlTable('second_factors', {
  personId: id('person_id')
    .primaryKey()
    .references(() => people.id),
  /** The one that holds. */
  sealed: bytes('sealed'),
  since: instant('since'),
  /** The step of time whose code was used last: no code is good twice. */
  lastStep: instant('last_step').notNull().default(0),
  /** One that was begun and is not confirmed yet. */
  nextSealed: bytes('next_sealed'),
});

/** Words for whoever lost what makes their codes, each good once. */
export const recoveryWords = mysqlTable(
  'recovery_words',
  {
    hash: digest('hash').primaryKey(),
    personId: id('person_id')
      .notNull()
      .references(() => people.id),
    usedAt: instant('used_at'),
  },
  (t) => [index('recovery_words_person').on(t.personId)],
);

/** What an installation demands at sign-in; one row. */
export const signInRules = mysqlTable('sign_in_rules', {
  id: int('id').primaryKey(),
  /** The role from which on a second factor is demanded. */
  factorFrom: mysqlEnum('factor_from', roles),
});

/** What people sign in as elsewhere: an issuer of OpenID Connect and its name for them. */
export const identities = mysqlTable(
  'identities',
  {
    issuer: varchar('issuer', { length: 255 }).notNull(),
    subject: varchar('subject', { length: 255 }).notNull(),
    personId: id('person_id')
      .notNull()
      .references(() => people.id),
    since: instant('since').notNull(),
  },
  (t) => [
    primaryKey({ columns: [t.issuer, t.subject] }),
    uniqueIndex('identities_person').on(t.personId, t.issuer),
  ],
);

/** Links that make a person with a role, once. */
export const invitations = mysqlTable(
  'invitations',
  {
    id: id('id').primaryKey(),
    hash: digest('hash').notNull(),
    projectId: id('project_id').references(() => projects.id),
    role: mysqlEnum('role', roles).notNull(),
    /** Who invites; null for the first operator, whom Vaquero invites: that counts for nothing once there is somebody. */
    personId: id('person_id').references(() => people.id),
    madeAt: instant('made_at').notNull(),
    expiresAt: instant('expires_at').notNull(),
    /** When it was used or taken back, and by whom it was used. */
    overAt: instant('over_at'),
    usedBy: id('used_by'),
  },
  (t) => [
    uniqueIndex('invitations_hash').on(t.hash),
    index('invitations_project').on(t.projectId, t.overAt),
  ],
);

/** The projects that somebody wants first: of no consequence to anybody else. */
export const favourites = mysqlTable(
  'favourites',
  {
    personId: id('person_id')
      .notNull()
      .references(() => people.id),
    projectId: id('project_id')
      .notNull()
      .references(() => projects.id),
  },
  (t) => [primaryKey({ columns: [t.personId, t.projectId] })],
);

/** Links by which somebody sets another password, once. */
export const passwordLinks = mysqlTable(
  'password_links',
  {
    hash: digest('hash').primaryKey(),
    personId: id('person_id')
      .notNull()
      .references(() => people.id),
    madeBy: id('made_by').notNull(),
    madeAt: instant('made_at').notNull(),
    expiresAt: instant('expires_at').notNull(),
    /** When it was used, or another one took its place. */
    usedAt: instant('used_at'),
    endedAt: instant('ended_at'),
  },
  (t) => [index('password_links_person').on(t.personId)],
);

/** Mail addresses of people, in small letters. */
export const mailAddresses = mysqlTable(
  'mail_addresses',
  {
    id: id('id').primaryKey(),
    personId: id('person_id')
      .notNull()
      .references(() => people.id),
    address: varchar('address', { length: 254 }).notNull(),
    addedAt: instant('added_at').notNull(),
    /** The same once its mail was shown to reach this person: of one alone. */
    provenAs: varchar('proven_as', { length: 254 }),
    provenAt: instant('proven_at'),
    /** Of the link that was sent last. */
    keyHash: digest('key_hash'),
    keyUntil: instant('key_until'),
  },
  (t) => [
    uniqueIndex('mail_addresses_of').on(t.personId, t.address),
    uniqueIndex('mail_addresses_proven').on(t.provenAs),
    index('mail_addresses_key').on(t.keyHash),
  ],
);

/** Failed sign-ins, by name and by address, for backing off. */
export const signInTries = mysqlTable('sign_in_tries', {
  subject: varchar('subject', { length: 255 }).primaryKey(),
  failures: int('failures').notNull(),
  lastAt: instant('last_at').notNull(),
});
