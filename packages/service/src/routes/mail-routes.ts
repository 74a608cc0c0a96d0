import { mailRoutes } from '@vaquero/contracts';
import type { Express } from 'express';
import type { Deps } from '../base/deps.ts';
import { serve } from '../http/serve-route.ts';
import { requireWhole } from '../people/caller.ts';
import { addMail, dropMail, proveMail, viewMail } from '../people/mail-addresses.ts';

/** Serves what people do with their mail addresses. */
export function serveMail(app: Express, deps: Deps): void {
  serve(app, deps, mailRoutes.listMailRoute, ({ caller }) => viewMail(deps, caller.personId));
  serve(app, deps, mailRoutes.addMailRoute, ({ caller, body }) => {
    requireWhole(caller, 'add a mail address');
    return addMail(deps, caller, body.address);
  });
  serve(app, deps, mailRoutes.proveMailRoute, ({ caller, body }) => {
    requireWhole(caller, 'show whose a mail address is');
    return proveMail(deps, caller, body.key);
  });
  serve(app, deps, mailRoutes.dropMailRoute, ({ caller, body }) => {
    requireWhole(caller, 'take a mail address away');
    return dropMail(deps, caller, body.address);
  });
}
