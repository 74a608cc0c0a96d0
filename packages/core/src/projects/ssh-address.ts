/** Where a repository lies that is read over SSH. */
export interface SshAddress {
  readonly user: string;
  readonly host: string;
  readonly port: number;
  /** From the root of the host on, or from `~`. */
  readonly path: string;
  /** All of it in one form, by which two of the same place are alike. */
  readonly href: string;
}

const user = /^[A-Za-z0-9_][A-Za-z0-9._-]{0,63}$/;
const host = /^(?:[A-Za-z0-9](?:[A-Za-z0-9.-]{0,251}[A-Za-z0-9])?|\[[0-9A-Fa-f:.]+\])$/;
const whole = /^ssh:\/\/([^/@\s]+)@(\[[^\]/@\s]*\]|[^/@:\s]+)(?::(\d{1,5}))?(\/[\x21-\x7e]+)$/;
/** As Git's clients also write it: `git@host:path`, from the home of that user on. Source: git-clone(1), GIT URLS. */
const short = /^([^/@:\s]+)@(\[[^\]/@\s]*\]|[^/@:\s]+):(?!\/\/)([\x21-\x7e]+)$/;

/**
 * Reads the address of a repository over SSH. Undefined for anything else, and for what a program could take for an option of
 * its own: names that begin with a hyphen, control characters, spaces. A password has no place in it, nor has a question.
 */
export function readSshAddress(text: string): SshAddress | undefined {
  const [, by = '', at = '', port = '22', path = ''] = whole.exec(text) ?? [];
  const [, shortBy = '', shortAt = '', rest = ''] = short.exec(text) ?? [];
  const isShort = path === '' && rest !== '';
  const own = isShort ? (/^[/~]/.test(rest) ? rest : `~/${rest}`) : path;
  const from = own.startsWith('~') ? `/${own}` : own;
  const name = isShort ? shortBy : by;
  const where = (isShort ? shortAt : at).toLowerCase();
  const number = Number(port);
  if (!user.test(name) || !host.test(where) || from.length < 2 || /[?#]/.test(from)) return;
  if (number < 1 || number > 65_535) return;
  const shownPort = number === 22 ? '' : `:${number}`;
  return {
    user: name,
    host: where.replace(/^\[|\]$/g, ''),
    port: number,
    path: from,
    href: `ssh://${name}@${where}${shownPort}${from}`,
  };
}
