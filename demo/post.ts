import { appendFileSync } from 'node:fs';
import { startPostOffice } from '@vaquero/standins';
import { inBrowser } from './in-browser.ts';

/** The post office of the ferry company: a mail server in the demo's own process, which keeps all mail in a file. */
export interface Post {
  readonly environment: Readonly<Record<string, string>>;
  /** Has people show that an address is theirs, as they would by the link of a mail; once is enough. */
  readonly proveAddresses: (
    origin: string,
    names: readonly string[],
    password: string,
  ) => Promise<void>;
}

/** Opens it on a port of loopback; null where that port is in use: then no mail is sent. */
export async function openPost(port: number, mailFile: string): Promise<Post | null> {
  const office = await startPostOffice({
    port,
    take: ({ to, subject, text }) =>
      appendFileSync(mailFile, `To: ${to.join(', ')}\nSubject: ${subject}\n\n${text}\n`, {
        mode: 0o600,
      }),
  }).catch((error: NodeJS.ErrnoException) => {
    if (error.code === 'EADDRINUSE') return null;
    throw error;
  });
  if (office === null) return null;
  return {
    environment: {
      VAQUERO_MAIL_SERVER: office.url,
      VAQUERO_MAIL_FROM: 'vaquero@kettle.example',
    },
    proveAddresses: async (origin, names, password) => {
      for (const name of names) {
        const call = inBrowser(origin);
        await call('/api/sign-in', { name, password });
        const address = `${name}@kettle.example`;
        const { addresses } = await call('/api/me/mail-addresses');
        if ((addresses as readonly unknown[]).length === 0) {
          await call('/api/me/mail-addresses', { address });
          const { text = '' } = office.mails.findLast(({ to }) => to.includes(address)) ?? {};
          const key = /\/mail#(\S+)/.exec(text)?.[1];
          await call('/api/me/mail-addresses/proven', { key });
        }
        await call('/api/sign-out', {});
      }
    },
  };
}
