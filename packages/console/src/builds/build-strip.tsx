import { useMutation } from '@tanstack/react-query';
import { type BuildReply, buildRoutes } from '@vaquero/contracts';
import { counted } from '@vaquero/core';
import { api, queries } from '../http/api.ts';
import { Button } from '../parts/button.tsx';
import { Failed } from '../parts/failed.tsx';
import { Glyph } from '../parts/glyph.tsx';
import { clockWithSeconds, lasting } from '../parts/words.ts';
import { timeLeft } from './time-left.ts';

interface BuildStripProps {
  readonly project: string;
  readonly build: BuildReply;
  readonly now: number;
}

/** A build under way: what it does, how long it will take, what was saved, where it goes. */
export function BuildStrip({ project, build, now }: BuildStripProps) {
  const running = build.steps.filter((step) => step.state === 'running');
  const reused = build.steps.flatMap((step) => (step.reused === null ? [] : [step.reused]));
  const saved = reused.reduce((sum, one) => sum + one.tookMs, 0);
  const cancel = useMutation({
    mutationFn: () =>
      api.call(buildRoutes.cancelBuildRoute, { params: { project, build: build.number } }),
    onSuccess: () => queries.invalidateQueries({ queryKey: [project] }),
  });
  return (
    <section
      aria-label="Under way"
      className="mb-3 grid border-t-2 border-action py-2 md:grid-cols-[10rem_minmax(0,1.4fr)_minmax(0,1.2fr)_minmax(0,1fr)] [&>div]:border-rule [&>div]:px-3.5 md:[&>div+div]:border-l md:[&>div:first-child]:pl-0"
    >
      <div>
        <h2 className="text-ink-2">Now</h2>
        <p className="text-place font-[650]">
          <Glyph name={build.startedAt === null ? 'queued' : 'running'} />{' '}
          {running.map((step) => step.name).join(' and ') || build.state}
        </p>
        {build.place === null ? null : <p>{build.place.ahead} ahead in the queue</p>}
        {build.place?.startsAt == null ? null : (
          <p>begins about {clockWithSeconds(build.place.startsAt)}</p>
        )}
      </div>
      <TimeLeft build={build} now={now} />
      <div>
        <h2 className="text-ink-2">Saved</h2>
        <p className="text-place font-[650]">
          {reused.length === 0
            ? 'nothing so far'
            : `${lasting(saved)}, ${counted(reused.length, 'step')} reused`}
        </p>
        <p className="text-ink-2">
          {build.earlier === 'used' ? '' : 'Asked for afresh: what is known is left.'}
        </p>
      </div>
      <div>
        <h2 className="text-ink-2">Where it goes</h2>
        <p>{build.destination}</p>
        <p className="mt-1.5">
          <Button tone="warn" disabled={cancel.isPending} onClick={() => cancel.mutate()}>
            Cancel this build
          </Button>
        </p>
        {cancel.isError ? <Failed error={cancel.error} /> : null}
      </div>
    </section>
  );
}

function TimeLeft({ build, now }: { readonly build: BuildReply; readonly now: number }) {
  const { usual, startedAt } = build;
  const passed = startedAt === null ? 0 : now - startedAt;
  const left = timeLeft(build, now);
  const share = left === null ? 0 : Math.min(1, passed / Math.max(1, passed + left));
  return (
    <div>
      <h2 className="text-ink-2">Time left</h2>
      <p className="text-place font-[650]">
        {left === null
          ? 'not known: no build of this ref has passed yet'
          : startedAt === null
            ? `about ${lasting(left)} once it begins`
            : left > 0
              ? `about ${lasting(left)}`
              : `over its usual time by ${lasting(-left)}`}
      </p>
      {usual === null ? null : (
        <>
          <div
            role="progressbar"
            aria-label="How far it is, by the usual time"
            aria-valuemin={0}
            aria-valuemax={100}
            aria-valuenow={Math.round(share * 100)}
            className="my-1 h-1.5 bg-rule-2"
          >
            <div className="h-full bg-action" style={{ width: `${share * 100}%` }} />
          </div>
          <p className="text-ink-2">
            {lasting(passed)} so far; the last {usual.of} took {lasting(usual.shortMs)} to{' '}
            {lasting(usual.longMs)}
          </p>
        </>
      )}
    </div>
  );
}
