/**
 * A text as one word of a shell's command, and no option of what it is given to: names of folders are whatever a commit
 * calls them. Source: POSIX.1-2017, Shell Command Language, section 2.2.
 */
export function shellWord(text: string): string {
  const word = text.startsWith('-') ? `./${text}` : text;
  return /^[\w@%+=:,./-]+$/.test(word) ? word : `'${word.replaceAll("'", "'\\''")}'`;
}
