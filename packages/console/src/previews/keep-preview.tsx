import type { EnvironmentSeen } from '@vaquero/contracts';
import { previewRoutes } from '@vaquero/contracts';
import { useState } from 'react';
import { api } from '../http/api.ts';
import { ActLink } from '../parts/act-link.tsx';
import { Button } from '../parts/button.tsx';
import { Failed } from '../parts/failed.tsx';
import { Choice, TextField } from '../parts/field.tsx';
import { Sheet } from '../parts/sheet.tsx';
import { day } from '../parts/words.ts';
import { useMayAct } from '../people/use-may.ts';
import { useMove } from '../releases/use-move.ts';

const dayMs = 86_400_000;
const spans = [1, 3, 7, 14, 30, 90];

/** Keeping one environment of a family until some day, or letting it go again. */
export function KeepPreview({
  project,
  preview,
}: {
  readonly project: string;
  readonly preview: Pick<EnvironmentSeen, 'name' | 'may' | 'family'>;
}) {
  const [open, setOpen] = useState(false);
  const [days, setDays] = useState('7');
  const [reason, setReason] = useState('');
  const { may, who } = useMayAct(project, preview, 'end');
  const kept = preview.family?.kept ?? null;
  const params = { project, environment: preview.name };
  const until = (): number => Date.now() + Number(days) * dayMs;
  const keep = useMove(
    project,
    () =>
      api.call(previewRoutes.keepPreviewRoute, {
        params,
        body: { until: new Date(until()).toISOString(), reason },
      }),
    () => setOpen(false),
  );
  const letGo = useMove(
    project,
    () => api.call(previewRoutes.keepNoLongerRoute, { params }),
    () => setOpen(false),
  );
  return (
    <>
      <ActLink act="keep" may={may} who={who} onClick={() => setOpen(true)}>
        {kept === null ? 'Keep…' : 'Kept…'}
        <span className="sr-only"> {preview.name}</span>
      </ActLink>
      <Sheet
        open={open}
        onOpenChange={setOpen}
        title={`Keep ${preview.name}?`}
        says={
          kept === null
            ? 'It ends no sooner, whatever becomes of its pull request or branch.'
            : `${kept.by} keeps it until ${day(kept.until)}${kept.why === '' ? '' : `: “${kept.why}”`}.`
        }
        acts={
          <>
            <Button tone="action" disabled={keep.isPending} onClick={() => keep.mutate()}>
              Keep it until {day(until())}
            </Button>
            {kept === null ? null : (
              <Button disabled={letGo.isPending} onClick={() => letGo.mutate()}>
                Keep it no longer
              </Button>
            )}
          </>
        }
      >
        <Choice
          label="From now on"
          value={days}
          choices={spans.map((count) => [String(count), count === 1 ? '1 day' : `${count} days`])}
          onChange={(event) => setDays(event.currentTarget.value)}
        />
        <TextField
          label="Why, for whoever looks back"
          className="said w-full"
          maxLength={500}
          value={reason}
          onChange={(event) => setReason(event.currentTarget.value)}
        />
        {keep.isError ? <Failed error={keep.error} /> : null}
        {letGo.isError ? <Failed error={letGo.error} /> : null}
      </Sheet>
    </>
  );
}
