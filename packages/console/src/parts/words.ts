const days = ['Sun', 'Mon', 'Tue', 'Wed', 'Thu', 'Fri', 'Sat'];
const months = ['Jan', 'Feb', 'Mar', 'Apr', 'May', 'Jun', 'Jul', 'Aug', 'Sep', 'Oct', 'Nov', 'Dec'];

const two = (figure: number): string => String(figure).padStart(2, '0');

/** `11:52`, UTC. */
export function clock(at: number): string {
  const date = new Date(at);
  return `${two(date.getUTCHours())}:${two(date.getUTCMinutes())}`;
}

/** `14:32:08`, UTC. */
export function clockWithSeconds(at: number): string {
  return `${clock(at)}:${two(new Date(at).getUTCSeconds())}`;
}

/** `Fri 20 Nov`, UTC. */
export function day(at: number): string {
  const date = new Date(at);
  return `${days[date.getUTCDay()]} ${date.getUTCDate()} ${months[date.getUTCMonth()]}`;
}

/** `today 13:47` or `Fri 20 Nov 17:20`, UTC. */
export function moment(at: number, now: number): string {
  return day(at) === day(now) && now - at < 86_400_000
    ? `today ${clock(at)}`
    : `${day(at)} ${clock(at)}`;
}

/** A stretch of time as people say it. */
export function lasting(ms: number): string {
  if (ms < 1000) return `${Math.round(ms)} ms`;
  if (ms < 60_000) return `${(ms / 1000).toFixed(1)} s`;
  if (ms < 600_000) {
    const seconds = Math.round(ms / 1000);
    return `${Math.floor(seconds / 60)} min ${seconds % 60} s`;
  }
  const minutes = Math.round(ms / 60_000);
  if (minutes < 60) return `${minutes} min`;
  const hours = Math.floor(minutes / 60);
  return `${hours} h ${minutes % 60} min`;
}

/** A mark on a time axis: `20 s`, `1:20`, `1:05 h`. */
export function mark(ms: number): string {
  if (ms < 1000) return ms === 0 ? '0' : `${Math.round(ms)} ms`;
  const seconds = Math.round(ms / 100) / 10;
  if (seconds < 60) return `${seconds} s`;
  const minutes = Math.floor(seconds / 60);
  if (minutes < 60) return `${minutes}:${two(Math.round(seconds % 60))}`;
  return `${Math.floor(minutes / 60)}:${two(minutes % 60)} h`;
}

/** A sentence begins with a capital. */
export function capital(text: string): string {
  return text.charAt(0).toUpperCase() + text.slice(1);
}

/** `412 B`, `6.1 kB`, `2.4 MB`. */
export function size(bytes: number): string {
  if (bytes < 1000) return `${bytes} B`;
  const [unit, by] = bytes < 1e6 ? (['kB', 1e3] as const) : (['MB', 1e6] as const);
  return `${(bytes / by).toFixed(1)} ${unit}`;
}
