import { inject } from '@angular/core';
import { Router, type CanActivateFn, type Routes } from '@angular/router';
import { map } from 'rxjs';
import { SessionService } from './data/session';

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

export const routes: Routes = [
  {
    path: 'sign-in',
    title: 'Sign in · Treenail',
    loadComponent: () => import('./sign-in/sign-in').then((m) => m.SignInPage),
  },
  {
    path: '',
    canActivate: [signedIn],
    children: [
      {
        path: 'reports',
        title: 'Reports · Treenail',
        loadComponent: () => import('./reports/reports').then((m) => m.ReportsPage),
      },
      {
        path: 'reports/:id',
        title: 'Transfer report · Treenail',
        loadComponent: () => import('./reports/report').then((m) => m.ReportPage),
      },
      {
        path: '',
        canActivate: [administrator],
        children: [
          { path: '', pathMatch: 'full', redirectTo: 'courses' },
          {
            path: 'courses',
            title: 'Courses · Treenail',
            loadComponent: () => import('./courses/courses').then((m) => m.CoursesPage),
          },
          {
            path: 'moves',
            title: 'Moves · Treenail',
            loadComponent: () => import('./moves/moves').then((m) => m.MovesPage),
          },
          {
            path: 'moves/:id',
            title: 'Move · Treenail',
            loadComponent: () => import('./moves/move').then((m) => m.MovePage),
          },
          {
            path: 'moves/:id/:step',
            title: 'Move · Treenail',
            loadComponent: () => import('./moves/move').then((m) => m.MovePage),
          },
          {
            path: 'bench',
            title: 'Bench · Treenail',
            loadComponent: () => import('./bench/bench').then((m) => m.BenchPage),
          },
          {
            path: 'bench/describe',
            title: 'Describe an archive · Treenail',
            loadComponent: () => import('./describe/describe').then((m) => m.DescribePage),
          },
          {
            path: 'strongroom',
            title: 'Strongroom · Treenail',
            loadComponent: () => import('./strongroom/strongroom').then((m) => m.StrongroomPage),
          },
          {
            path: 'platforms',
            title: 'Platforms · Treenail',
            loadComponent: () => import('./platforms/platforms').then((m) => m.PlatformsPage),
          },
        ],
      },
    ],
  },
  { path: '**', redirectTo: '' },
];
