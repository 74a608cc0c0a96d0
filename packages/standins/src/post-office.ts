import { once } from 'node:events';
import PostalMime from 'postal-mime';
import { SMTPServer } from 'smtp-server';

/** A mail that came. */
export interface Mail {
  readonly from: string;
  readonly to: readonly string[];
  readonly subject: string;
  readonly text: string;
}

/** A mail server that keeps what it is given, and hands nothing on. */
export interface PostOffice {
  /** To be given to the service as its mail server. */
  readonly url: string;
  readonly mails: readonly Mail[];
  /** From now on mail to these is refused. */
  readonly refuse: (addresses: readonly string[]) => void;
  readonly stop: () => Promise<void>;
}

/** Starts one on loopback; `take` is told each mail as it has come. Source: RFC 5321. */
export async function startPostOffice({
  port = 0,
  take = () => undefined,
}: {
  readonly port?: number;
  readonly take?: (mail: Mail) => void;
} = {}): Promise<PostOffice> {
  const mails: Mail[] = [];
  let refused: readonly string[] = [];
  const server = new SMTPServer({
    authOptional: true,
    disabledCommands: ['STARTTLS', 'AUTH'],
    onRcptTo: ({ address }, _session, done) =>
      done(
        refused.includes(address)
          ? Object.assign(new Error('nobody of that name'), { responseCode: 550 })
          : null,
      ),
    onData: (stream, session, done) => {
      const chunks: Buffer[] = [];
      stream.on('data', (chunk: Buffer) => chunks.push(chunk));
      stream.on('end', () => {
        PostalMime.parse(Buffer.concat(chunks)).then((read) => {
          const { mailFrom, rcptTo } = session.envelope;
          const mail = {
            from: mailFrom === false ? '' : mailFrom.address,
            to: rcptTo.map(({ address }) => address),
            subject: read.subject ?? '',
            text: read.text ?? '',
          };
          mails.push(mail);
          take(mail);
          done();
        }, done);
      });
    },
  });
  server.listen(port, '127.0.0.1');
  await once(server.server, 'listening');
  const address = server.server.address();
  return {
    url: `smtp://127.0.0.1:${typeof address === 'object' && address !== null ? address.port : 0}`,
    mails,
    refuse: (addresses) => {
      refused = addresses;
    },
    stop: () => new Promise((resolve) => server.close(() => resolve())),
  };
}
