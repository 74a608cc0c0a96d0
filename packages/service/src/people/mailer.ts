import type { Instant } from '@vaquero/core';
import { LRUCache } from 'lru-cache';
import { createTransport } from 'nodemailer';
import type { MailServer } from '../base/config.ts';

declare module '../base/deps.ts' {
  interface Deps {
    /** Null where no mail is sent. */
    readonly mailer: Mailer | null;
  }
}

/** Sends mail for this installation. */
export interface Mailer {
  /** Sends a text. Throws what the server or the way to it says. */
  readonly send: (to: string, subject: string, text: string) => Promise<void>;
  /** Whether one more may be sent for a person now; if not, in how many seconds. Counts it. */
  readonly mayFor: (personId: string, now: Instant) => number | null;
  readonly stop: () => void;
}

const mostInAnHour = 10;
const hourMs = 3_600_000;
const withinMs = 10_000;

/** Makes a mailer that hands its mail to a server. Nobody's mail is a way to fill somebody else's box: each person may cause a few. */
export function makeMailer({ url, from }: MailServer): Mailer {
  const transport = createTransport({
    url,
    connectionTimeout: withinMs,
    greetingTimeout: withinMs,
    socketTimeout: withinMs,
    // Nothing that a text names is fetched or read for it.
    disableFileAccess: true,
    disableUrlAccess: true,
  });
  const sent = new LRUCache<string, readonly number[]>({ max: 10_000 });
  return {
    send: async (to, subject, text) => {
      await transport.sendMail({ from, to: { name: '', address: to }, subject, text });
    },
    mayFor: (personId, now) => {
      const lately = (sent.get(personId) ?? []).filter((at) => at > now - hourMs);
      const [first = now] = lately;
      if (lately.length >= mostInAnHour) return Math.ceil((first + hourMs - now) / 1000);
      sent.set(personId, [...lately, now]);
      return null;
    },
    stop: () => transport.close(),
  };
}
