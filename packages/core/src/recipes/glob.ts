/**
 * Whether a path meets a pattern. `*` stands for any run of characters but `/`, `**` for any number of
 * folders, `?` for one character; all else is literal. A pattern without these also meets whatever lies
 * below the folder it names; `.` meets everything.
 */
export function matchesPath(pattern: string, path: string): boolean {
  const clean = cleanPath(pattern);
  if (clean === '.') return true;
  if (!isPattern(clean)) return path === clean || path.startsWith(`${clean}/`);
  return matchSegments(clean.split('/'), path.split('/'));
}

/** The same for many paths: what the pattern says is taken apart once. */
export function pathMatcher(
  pattern: string,
): (path: string, segments: readonly string[]) => boolean {
  const clean = cleanPath(pattern);
  if (clean === '.') return () => true;
  const below = `${clean}/`;
  if (!isPattern(clean)) return (path) => path === clean || path.startsWith(below);
  const parts = clean.split('/');
  const fixed = fixedPart(clean);
  const start = fixed === '.' ? '' : `${fixed}/`;
  const isDeep = parts.includes('**');
  return (path, segments) => {
    // Most paths are told by their beginning, or by how deep they lie.
    if (!path.startsWith(start)) return isDeep && path === fixed && matchSegments(parts, segments);
    if (isDeep) return matchSegments(parts, segments);
    return (
      segments.length === parts.length &&
      parts.every((part, place) => matchText(part, segments[place] ?? ''))
    );
  };
}

/** Whether a ref's short name meets a pattern: `*` stands for any run of characters, slashes too. */
export function matchesName(pattern: string, name: string): boolean {
  return matchText(pattern, name);
}

/** Whether a text holds characters that stand for others. */
export function isPattern(text: string): boolean {
  return /[*?]/.test(text);
}

/** A path without `./` in front, doubled slashes or a slash behind; `.` for the folder itself. */
export function cleanPath(path: string): string {
  const parts = path.split('/').filter((part) => part !== '' && part !== '.');
  return parts.length === 0 ? '.' : parts.join('/');
}

/** The folder that a pattern's fixed part names, where all its matches lie; `.` when that is everywhere. */
export function fixedPart(pattern: string): string {
  const parts = cleanPath(pattern).split('/');
  const open = parts.findIndex(isPattern);
  return open === -1 ? parts.join('/') : cleanPath(parts.slice(0, open).join('/'));
}

function matchSegments(pattern: readonly string[], path: readonly string[]): boolean {
  // Row by row instead of by recursion: `**` many times over must not take exponential time.
  let open = new Set([0]);
  const close = (places: Set<number>): Set<number> => {
    for (const place of places) if (pattern[place] === '**') places.add(place + 1);
    return places;
  };
  open = close(open);
  for (const segment of path) {
    const next = new Set<number>();
    for (const place of open) {
      const part = pattern[place];
      if (part === undefined) continue;
      if (part === '**') next.add(place);
      else if (matchText(part, segment)) next.add(place + 1);
    }
    open = close(next);
  }
  return open.has(pattern.length);
}

/** Matches `*` and `?` in one pass, going back to the last `*` only: at worst the product of both lengths. */
function matchText(pattern: string, text: string): boolean {
  return pattern.includes('?') ? matchLetters(pattern, text) : matchRuns(pattern, text);
}

/** Without `?`: what stands between stars is sought whole, which no pattern makes slow. */
function matchRuns(pattern: string, text: string): boolean {
  const [first = '', ...rest] = pattern.split('*');
  const last = rest.pop();
  if (last === undefined) return pattern === text;
  if (!text.startsWith(first)) return false;
  const end = text.length - last.length;
  let at = first.length;
  for (const run of rest) {
    const found = text.indexOf(run, at);
    if (found === -1 || found + run.length > end) return false;
    at = found + run.length;
  }
  return at <= end && text.endsWith(last);
}

function matchLetters(pattern: string, text: string): boolean {
  let at = 0;
  let star = -1;
  let starAt = 0;
  let place = 0;
  while (at < text.length) {
    if (
      place < pattern.length &&
      (pattern[place] === '?' || pattern[place] === text[at]) &&
      pattern[place] !== '*'
    ) {
      at += 1;
      place += 1;
    } else if (pattern[place] === '*') {
      star = place;
      starAt = at;
      place += 1;
    } else if (star !== -1) {
      place = star + 1;
      starAt += 1;
      at = starAt;
    } else return false;
  }
  while (pattern[place] === '*') place += 1;
  return place === pattern.length;
}
