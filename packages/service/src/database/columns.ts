import { type CommitId, type Digest, isId, readCommitId, readDigest } from '@vaquero/core';
import { type Column, type SQL, sql } from 'drizzle-orm';
import { bigint, customType, datetime } from 'drizzle-orm/mysql-core';

/** Column kinds that tables share. What is written to them is held against their form first, since the database would fill or cut it. */
export const bytes = customType<{ data: Buffer }>({ dataType: () => 'longblob' });

/** An id: a UUID of version 7 (RFC 9562), which the database sorts by when it was made. Throws for any other text. */
export const id = customType<{ data: string; driverData: string }>({
  dataType: () => 'uuid',
  toDriver: (text) => required(isId(text.toLowerCase()) ? text : undefined, 'id'),
});

/** The id that nothing has: the nil UUID. */
export const noId = '00000000-0000-0000-0000-000000000000';

/** A SHA-256 digest. Throws for what is none. */
export const digest = customType<{ data: Digest; driverData: Buffer }>({
  dataType: () => 'binary(32)',
  toDriver: (hex) => Buffer.from(required(readDigest(hex), 'digest'), 'hex'),
  fromDriver: (kept) => kept.toString('hex') as Digest,
});

/** The name of a commit: 20 bytes of SHA-1, or 32 of SHA-256. Throws for what is none. */
export const commitId = customType<{ data: CommitId; driverData: Buffer }>({
  dataType: () => 'varbinary(32)',
  toDriver: (hex) => Buffer.from(required(readCommitId(hex), 'commit'), 'hex'),
  fromDriver: (kept) => kept.toString('hex') as CommitId,
});

/** Whether what a column of bytes keeps begins with some hexadecimal digits, as a range of its index. */
export function beginsWith(column: Column, hex: string): SQL {
  const least = Buffer.from(hex.padEnd(hex.length + (hex.length % 2), '0'), 'hex');
  const most = Buffer.from(hex.padEnd(64, 'f'), 'hex');
  return sql`${column} between ${least} and ${most}`;
}

export const instant = (name: string) => bigint(name, { mode: 'number' });
/** Lease times come from the database, whose clock all processes share. */
export const lease = (name: string) => datetime(name, { mode: 'date', fsp: 3 });

function required<T>(value: T | undefined, what: string): T {
  if (value === undefined)
    throw new TypeError(`what was to be asked of the database is no ${what}`);
  return value;
}
