/** What an exit code says. The page of commands and the manual are made from this. */
export const exitCodes = {
  done: { code: 0, when: 'done' },
  fault: { code: 1, when: 'a fault of Vaquero or of this machine' },
  misuse: { code: 2, when: 'wrong use: the command line itself is not in order' },
  refused: { code: 3, when: 'refused, declined, not there, or nothing found' },
  unreached: { code: 4, when: 'the service was not reached, or could not answer' },
  unconfirmed: { code: 5, when: 'moved, but not every edge has confirmed it' },
  buildFailed: { code: 6, when: 'the build that was followed failed' },
  interrupted: { code: 130, when: 'interrupted; what was begun goes on' },
} as const;
