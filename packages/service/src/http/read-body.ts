import type { AnyRoute } from '@vaquero/contracts';
import express, { type Request, type RequestHandler, type Response } from 'express';

/** What people send is small; machines bring lists of all files of a site. */
const mostBytes = { open: 16 << 10, people: 100 << 10, machines: 64 << 20 } as const;

/** Nothing is inflated: a body is as large as it came. */
const readers = new Map<number, RequestHandler>(
  Object.values(mostBytes).map((limit) => [
    limit,
    express.json({ limit, inflate: false, type: 'application/json' }),
  ]),
);

/** Machines bring what builds wrote, which is bytes; what people say becomes names, arguments and lines of a terminal. */
export function isOfPeople({ access }: Pick<AnyRoute, 'access'>): boolean {
  return access.in !== 'role' && access.in !== 'attempt';
}

/**
 * Reads the JSON body of a call into `req.body`, once the caller is known to be one who may make it: until then not a
 * byte of it is read. Rejects with what express.json says of a body that is too large, compressed or no JSON.
 */
export function readBody(
  route: Pick<AnyRoute, 'access'>,
  req: Request,
  res: Response,
): Promise<void> {
  const limit =
    route.access.in === 'open'
      ? mostBytes.open
      : isOfPeople(route)
        ? mostBytes.people
        : mostBytes.machines;
  return new Promise((resolve, reject) => {
    readers.get(limit)?.(req, res, (error?: unknown) =>
      error === undefined ? resolve() : reject(error),
    );
  });
}
