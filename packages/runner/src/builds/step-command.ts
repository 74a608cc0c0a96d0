import type { Helper, RecipeStep } from '@vaquero/core';

/** Says each command before it runs, and ends at the first that fails. */
const inTurn =
  'for command in "$@"; do printf "%s\\n" "$command"; sh -c "$command" || exit $?; done';

/** The exit code by which a step says that a helper did not become ready. */
export const helperNotReady = 97;

/**
 * The command of a step: its helpers first, each in the background behind the same walls and with its name
 * before its lines, then the step's own commands in turn. All of it ends with the step.
 */
export function commandOf(step: RecipeStep, helpers: readonly Helper[]): readonly string[] {
  const begin = helpers.map(startHelper).join('\n');
  return ['/bin/bash', '-c', `${begin}\n${inTurn}`, 'sh', ...step.run];
}

function startHelper({ name, run, readyPort, withinMs }: Helper): string {
  const start = `( sh -c ${quoted(run)} 2>&1 | sed -u ${quoted(`s/^/${name}: /`)} ) &`;
  if (readyPort === null) return start;
  const tries = Math.ceil(withinMs / 100);
  return `${start}
tried=0
until (exec 3<>/dev/tcp/127.0.0.1/${readyPort}) 2>/dev/null; do
  tried=$((tried + 1))
  if [ "$tried" -gt ${tries} ]; then
    echo ${quoted(`the helper ${name} did not answer on port ${readyPort} within ${withinMs / 1000} s`)}
    exit ${helperNotReady}
  fi
  sleep 0.1
done`;
}

function quoted(text: string): string {
  return `'${text.replaceAll("'", "'\\''")}'`;
}
