import { addSeconds, format, isToday } from 'date-fns';
import { useEffect, useState } from 'react';

/** `15:24`, with the day when it is not today. */
export function clockTime(secondsFromNow: number): string {
  const at = addSeconds(new Date(), secondsFromNow);
  return format(at, isToday(at) ? 'HH:mm' : 'EEE HH:mm');
}

/** Draws again every half minute, so that a time of day stays true. */
export function useMinute(): void {
  const [, tick] = useState(0);
  useEffect(() => {
    const timer = setInterval(() => {
      tick((n) => n + 1);
    }, 30_000);
    return () => {
      clearInterval(timer);
    };
  }, []);
}
