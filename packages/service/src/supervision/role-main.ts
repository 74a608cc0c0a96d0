/** How a role's process ends: the first SIGTERM or SIGINT drains, a second one or the deadline cuts. */
export function endOnSignals(
  stop: () => Promise<void>,
  failed: (error: unknown) => void,
  drainMs = 7_000,
): void {
  let stopping = false;
  const end = (): void => {
    if (stopping) process.exit(1);
    stopping = true;
    setTimeout(() => process.exit(1), drainMs).unref();
    stop().then(
      () => process.exit(0),
      (error: unknown) => {
        failed(error);
        process.exit(1);
      },
    );
  };
  process.on('SIGTERM', end);
  process.on('SIGINT', end);
}
