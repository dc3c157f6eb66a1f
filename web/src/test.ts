import { NgModule } from '@angular/core';
import { getTestBed } from '@angular/core/testing';
import { BrowserTestingModule, platformBrowserTesting } from '@angular/platform-browser/testing';
import { provideIcons } from './app/parts/icons';

/** What every component has at hand in the application, and so in every spec. */
@NgModule({ providers: [provideIcons()] })
class EverySpec {}

getTestBed().initTestEnvironment([BrowserTestingModule, EverySpec], platformBrowserTesting(), {
  errorOnUnknownElements: true,
  errorOnUnknownProperties: true,
});
