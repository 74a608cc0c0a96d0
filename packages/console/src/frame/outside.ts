import type { Telling } from '../parts/toasts.tsx';

/** Whether the browser may tell somebody who looks at another window: not asked yet, allowed, shut, or it cannot. */
export function outsideNow(): NotificationPermission | 'cannot' {
  return 'Notification' in window ? Notification.permission : 'cannot';
}

/** Tells somebody who does not look at this window. Of several tabs that tell the same one is seen, by its tag. */
export function showOutside({ id, says, more, to }: Telling): void {
  if (!document.hidden || outsideNow() !== 'granted') return;
  try {
    const shown = new Notification(says, { body: more, tag: id });
    shown.onclick = () => {
      window.focus();
      window.location.assign(to);
    };
  } catch (error) {
    // Browsers of telephones have the word and no way to say it from a page: there it stands on the page alone.
    if (!(error instanceof TypeError)) throw error;
  }
}
