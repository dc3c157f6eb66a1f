import { inject, provideAppInitializer } from '@angular/core';
import { MatIconRegistry } from '@angular/material/icon';
import { DomSanitizer } from '@angular/platform-browser';

/** Paths of the icons in use, of Material Symbols (Apache License 2.0), in its square of 960. */
const PATHS = {
  /** Keeps the room of one. */
  blank: '',
  search:
    'M796-121 533-384q-30 26-70 40.5T378-329q-108 0-183-75t-75-181q0-106 75-181t182-75q106 0 180.5 75T632-585q0 43-14 83t-42 75l264 262-44 44ZM377-389q81 0 138-57.5T572-585q0-81-57-138.5T377-781q-82 0-139.5 57.5T180-585q0 81 57.5 138.5T377-389Z',
  check: 'M378-246 154-470l43-43 181 181 384-384 43 43-427 427Z',
  close: 'm249-207-42-42 231-231-231-231 42-42 231 231 231-231 42 42-231 231 231 231-42 42-231-231-231 231Z',
  down: 'M480-344 240-584l43-43 197 197 197-197 43 43-240 240Z',
  up: 'M480-554 283-357l-43-43 240-240 240 240-43 43-197-197Z',
  right: 'M530-481 332-679l43-43 241 241-241 241-43-43 198-198Z',
  left: 'M561-240 320-481l241-241 43 43-198 198 198 198-43 43Z',
  'open-full': 'M120-120v-300h60v198l558-558H540v-60h300v300h-60v-198L222-180h198v60H120Z',
  'close-full':
    'm122-80-42-42 298-298H160v-60h320v320h-60v-218L122-80Zm358-400v-320h60v218l298-298 42 42-298 298h218v60H480Z',
} as const;

/** Icons are part of the application: none is fetched. */
export const provideIcons = () =>
  provideAppInitializer(() => {
    const [registry, sanitizer] = [inject(MatIconRegistry), inject(DomSanitizer)];
    for (const [name, path] of Object.entries(PATHS)) {
      const svg = `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 -960 960 960"><path d="${path}"/></svg>`;
      registry.addSvgIconLiteral(name, sanitizer.bypassSecurityTrustHtml(svg));
    }
  });
