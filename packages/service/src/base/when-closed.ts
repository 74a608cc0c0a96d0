import type { Response } from 'express';

/**
 * Does something once a reply is over, also when it is over already: whoever asked may have gone while we looked
 * something up, and a listener that comes after the event waits for ever.
 */
export function whenClosed(res: Response, done: () => void): void {
  if (res.closed || res.destroyed) done();
  else res.once('close', done);
}
