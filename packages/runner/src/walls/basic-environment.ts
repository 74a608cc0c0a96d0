/** What every command behind the walls knows: where programs are and how they shall speak. */
export const basicEnvironment: Readonly<Record<string, string>> = {
  PATH: '/opt/node/bin:/usr/local/bin:/usr/bin:/bin',
  HOME: '/home/build',
  TMPDIR: '/tmp',
  LANG: 'C.UTF-8',
  LC_ALL: 'C.UTF-8',
  TZ: 'UTC',
};
