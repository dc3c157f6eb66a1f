import type { Settings } from './settings.ts';

/** Looks again and again whether there is something to do, twenty times in the time that one job takes. */
export function keepTicking(settings: Pick<Settings, 'pace'>, tick: () => void): void {
  const next = () => {
    setTimeout(
      () => {
        tick();
        next();
      },
      Math.max(20, settings.pace / 20),
    ).unref();
  };
  next();
}
