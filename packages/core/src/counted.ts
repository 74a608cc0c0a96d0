/** `1 commit`, `2 commits`. */
export function counted(count: number, word: string, several = `${word}s`): string {
  return `${count} ${count === 1 ? word : several}`;
}
