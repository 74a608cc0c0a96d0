import { useEffect, useState } from 'react';

/** The present; it goes on once a second while something on the page does. */
export function useNow(goesOn: boolean): number {
  const [now, setNow] = useState(Date.now());
  useEffect(() => {
    setNow(Date.now());
    if (!goesOn) return;
    const timer = setInterval(() => setNow(Date.now()), 1000);
    return () => clearInterval(timer);
  }, [goesOn]);
  return now;
}
