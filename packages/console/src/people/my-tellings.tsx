import { useState } from 'react';
import { outsideNow } from '../frame/outside.ts';
import { Button } from '../parts/button.tsx';

const says = {
  granted:
    'This browser also tells you while you look at another window. It is shut in the browser’s own settings.',
  denied: 'This browser tells you on these pages alone: its own settings shut out the rest.',
  default: 'This browser tells you on these pages.',
  cannot: 'This browser tells you on these pages: it cannot tell you elsewhere.',
} as const;

/** How one is told of the end of what one began, and of what waits for one's word. */
export function MyTellings() {
  const [now, setNow] = useState(outsideNow);
  const ask = async (): Promise<void> => {
    await Notification.requestPermission();
    setNow(outsideNow());
  };
  return (
    <section aria-label="What you are told">
      <h2 className="pb-1 font-[650]">What you are told</h2>
      <p>
        The end of each build that you began, by a push or an act, and each pull request of somebody
        outside that begins to wait for your word. <span role="status">{says[now]}</span>
      </p>
      {now === 'default' ? (
        <Button className="mt-2" onClick={() => void ask()}>
          Tell me in other windows, too
        </Button>
      ) : null}
    </section>
  );
}
