import { useEffect, useState } from 'react';

/** What a page says while it waits: nothing for 300 ms, then what it does and since when. */
export function Reading({ what }: { readonly what: string }) {
  const [seconds, setSeconds] = useState(-1);
  useEffect(() => {
    const begun = Date.now();
    const timer = setInterval(() => setSeconds(Math.floor((Date.now() - begun) / 1000)), 300);
    return () => clearInterval(timer);
  }, []);
  return seconds < 0 ? null : (
    <p role="status" className="border-t border-rule pt-2 text-ink-2">
      reading {what}, {seconds} s
    </p>
  );
}
