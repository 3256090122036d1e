import { useEffect, useState } from 'react';

/** `15:24`, or with the day when it is not today. */
export function clockTime(secondsFromNow: number): string {
  const at = new Date(Date.now() + secondsFromNow * 1000);
  const time = at.toLocaleTimeString('en-GB', { hour: '2-digit', minute: '2-digit' });
  return at.toDateString() === new Date().toDateString() ? time : `${at.toLocaleDateString('en-GB', { weekday: 'short' })} ${time}`;
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
