import { bigint, customType, datetime, varchar } from 'drizzle-orm/mysql-core';

/** Column kinds that tables share. */
export const bytes = customType<{ data: Buffer }>({ dataType: () => 'longblob' });
export const id = (name: string) => varchar(name, { length: 36 });
export const digest = (name: string) => varchar(name, { length: 64 });
export const instant = (name: string) => bigint(name, { mode: 'number' });
/** Lease times come from the database, whose clock all processes share. */
export const lease = (name: string) => datetime(name, { mode: 'date', fsp: 3 });
