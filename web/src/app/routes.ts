import { inject } from '@angular/core';
import { Router, type CanActivateFn, type Route, type Routes } from '@angular/router';
import { map } from 'rxjs';
import { SessionService } from './data/session';
import { SCREENS, type ScreenDefinition } from './screens';

const signedIn: CanActivateFn = (_route, state) => {
  const router = inject(Router);
  return inject(SessionService)
    .known()
    .pipe(map((person) => (person ? true : router.createUrlTree(['/sign-in'], { queryParams: { back: state.url } }))));
};

const administrator: CanActivateFn = () => {
  const router = inject(Router);
  return inject(SessionService)
    .known()
    .pipe(map((person) => person?.role === 'administrator' || router.createUrlTree(['/reports'])));
};

const GUARDS: Record<ScreenDefinition['who'], CanActivateFn[]> = {
  anyone: [],
  'signed in': [signedIn],
  administrator: [signedIn, administrator],
};

function routeOf({ path, title, who, load }: ScreenDefinition): Route {
  return { path, title: `${title} · Treenail`, canActivate: GUARDS[who], loadComponent: load };
}

export const routes: Routes = [
  ...SCREENS.map(routeOf),
  { path: '', pathMatch: 'full', redirectTo: 'courses' },
  { path: '**', redirectTo: '' },
];
