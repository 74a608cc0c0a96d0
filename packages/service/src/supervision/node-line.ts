/** When the lines of Node.js that the service runs on get no more fixes. Source: nodejs/Release, schedule.json. */
const ends: Readonly<Record<string, string>> = {
  20: '2026-04-30',
  22: '2027-04-30',
  24: '2028-04-30',
};

/** What is to be said of the Node.js that runs this, at an instant; null for a line that is looked after. */
export function sayOfNode(version: string, at: number): string | null {
  const [line = ''] = version.split('.');
  const end = ends[line];
  if (end === undefined)
    return `Node.js ${version} is none of those that Vaquero is tried on (20, 22 and 24).`;
  return at > Date.parse(end)
    ? `Node.js ${line} has had no security fixes since ${end}. Next: run Vaquero on Node.js 24.`
    : null;
}
