import { admissionRoutes, type EnvironmentSeen } from '@vaquero/contracts';
import { useState } from 'react';
import { api } from '../http/api.ts';
import { Button } from '../parts/button.tsx';
import { Failed } from '../parts/failed.tsx';
import { Sheet } from '../parts/sheet.tsx';
import { useMay } from '../people/use-may.ts';
import { useMove } from '../releases/use-move.ts';

/** Whom a site admits, in words, with lending a link where the map allows one. */
export function Admits({
  project,
  environment,
}: {
  readonly project: string;
  readonly environment: Pick<EnvironmentSeen, 'name' | 'admits' | 'isLent'>;
}) {
  const [open, setOpen] = useState(false);
  const { may, why } = useMay(project, 'build');
  const { name, admits, isLent } = environment;
  const params = { project, environment: name };
  const lend = useMove(
    project,
    () => api.call(admissionRoutes.lendRoute, { params }),
    () => undefined,
  );
  const close = useMove(
    project,
    () => api.call(admissionRoutes.closeLinkRoute, { params }),
    () => undefined,
  );
  return (
    <p className="border-t border-rule py-1">
      <span className="text-ink-2">admits</span>{' '}
      {admits === 'anyone'
        ? 'anyone'
        : `members${isLent ? ', and whoever has the link that is lent' : ''}`}{' '}
      {admits !== 'link' ? null : (
        <>
          <Button data-act="lend" disabled={!may} onClick={() => setOpen(true)}>
            {isLent ? 'Lend another link…' : 'Lend a link…'}
          </Button>{' '}
          {isLent ? (
            <Button disabled={!may || close.isPending} onClick={() => close.mutate()}>
              Close the link
            </Button>
          ) : null}{' '}
          {may ? null : <span className="text-ink-2">{why}</span>}
        </>
      )}
      {close.isError ? <Failed error={close.error} /> : null}
      <Sheet
        open={open}
        onOpenChange={(isOpen) => {
          setOpen(isOpen);
          lend.reset();
        }}
        title={`Lend ${name}?`}
        says="Whoever has the link sees this site, without a name here. A link that was lent before is closed by it."
        acts={
          lend.data === undefined ? (
            <Button tone="action" disabled={lend.isPending} onClick={() => lend.mutate()}>
              Lend a link
            </Button>
          ) : null
        }
        leave={lend.data === undefined ? 'Leave it' : 'Done'}
      >
        {lend.data === undefined ? null : (
          <p>
            Shown this once:{' '}
            <code className="block select-all [overflow-wrap:anywhere]">{lend.data.address}</code>
          </p>
        )}
        {lend.isError ? <Failed error={lend.error} /> : null}
      </Sheet>
    </p>
  );
}
