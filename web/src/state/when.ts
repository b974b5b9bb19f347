// Times as they are read.
const SHOWN = new Intl.DateTimeFormat("en-GB", { day: "numeric", month: "short", hour: "2-digit", minute: "2-digit" });

export const when = (time: Date): string => SHOWN.format(time);

/** A time that is left, in seconds or minutes. */
export const remaining = (seconds: number): string =>
  seconds < 90 ? `${Math.round(seconds)} s` : `${Math.round(seconds / 60)} min`;
