import * as z from 'zod';

const Hidden = z.array(z.string());

/** Which columns a person does not want to see, by the list's name; kept in this browser. */
export function rememberedColumns() {
  const place = (list: string) => `treenail-columns-${list}`;
  return {
    read(list: string): ReadonlySet<string> | null {
      try {
        return new Set(Hidden.parse(JSON.parse(localStorage.getItem(place(list)) ?? 'null')));
      } catch {
        // Nothing is remembered, or something that another release wrote: all are shown.
        return null;
      }
    },
    write(list: string, hidden: ReadonlySet<string>): void {
      localStorage.setItem(place(list), JSON.stringify([...hidden]));
    },
  };
}
