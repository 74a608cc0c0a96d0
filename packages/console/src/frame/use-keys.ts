import { useEffect, useRef } from 'react';

/** Hears single keys, but not while somebody writes, and not with another key held. */
export function useKeys(hear: (key: string) => void): void {
  const newest = useRef(hear);
  useEffect(() => {
    newest.current = hear;
  });
  useEffect(() => {
    const listen = (event: KeyboardEvent): void => {
      const isWriting =
        event.target instanceof HTMLElement &&
        event.target.closest('input, textarea, select, [contenteditable=true], [role=dialog]') !==
          null;
      if (!isWriting && !event.ctrlKey && !event.metaKey && !event.altKey)
        newest.current(event.key);
    };
    window.addEventListener('keydown', listen);
    return () => window.removeEventListener('keydown', listen);
  }, []);
}
