import { type Heard, listenToService } from './events-stream.ts';

/** One stream of events for all tabs of a browser: each tab has a port, and the last that leaves ends the stream. */
const ports = new Set<MessagePort>();
let quit: (() => void) | null = null;

const tellAll = (heard: Heard): void => {
  for (const port of ports) port.postMessage(heard);
};

self.addEventListener('connect', (event) => {
  const [port] = (event as MessageEvent).ports;
  if (port === undefined) return;
  port.onmessage = ({ data }: MessageEvent<'join' | 'leave'>) => {
    if (data === 'join') ports.add(port);
    else ports.delete(port);
    if (ports.size === 0) {
      quit?.();
      quit = null;
    } else quit ??= listenToService(tellAll);
  };
});
