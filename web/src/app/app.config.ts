import {
  provideHttpClient,
  withFetch,
  withInterceptors,
  type HttpInterceptorFn,
  HttpErrorResponse,
} from '@angular/common/http';
import { inject, provideBrowserGlobalErrorListeners, type ApplicationConfig } from '@angular/core';
import { Router, provideRouter, withComponentInputBinding, withRouterConfig } from '@angular/router';
import { catchError, throwError } from 'rxjs';
import { provideIcons } from './parts/icons';
import { SessionService } from './data/session';
import { routes } from './routes';

/** A session that has run out leads to the sign-in, and from there back to where the person was. */
const signedIn: HttpInterceptorFn = (request, next) => {
  const session = inject(SessionService);
  const router = inject(Router);
  return next(request).pipe(
    catchError((error: unknown) => {
      if (error instanceof HttpErrorResponse && error.status === 401 && !request.url.endsWith('/session')) {
        session.forget();
        void router.navigate(['/sign-in'], { queryParams: { back: router.url } });
      }
      return throwError(() => error);
    }),
  );
};

export const appConfig: ApplicationConfig = {
  providers: [
    provideBrowserGlobalErrorListeners(),
    provideIcons(),
    provideHttpClient(withFetch(), withInterceptors([signedIn])),
    // What can't be loaded is told by the application, not by an error that nobody sees.
    provideRouter(routes, withComponentInputBinding(), withRouterConfig({ resolveNavigationPromiseOnError: true })),
  ],
};
