/** What the rule refuses and lets pass; run by the lint room of the tests. */
import { RuleTester } from 'eslint';
import * as parser from '@angular-eslint/template-parser';
import rule from './raw-controls.js';

RuleTester.describe = (_name, work) => work();
RuleTester.it = (_name, work) => work();
RuleTester.itOnly = RuleTester.it;
new RuleTester({ languageOptions: { parser } }).run('raw-controls', rule, {
  valid: [
    { code: '<input matInput />', filename: 'a.html' },
    { code: '<button matButton="filled" (click)="go()">Go</button>', filename: 'a.html' },
    { code: '<table mat-table [dataSource]="rows()"></table>', filename: 'a.html' },
    { code: '@if (open()) { <textarea matInput></textarea> }', filename: 'a.html' },
    { code: '<input type="file" />', filename: 'web/src/app/parts/pick.ts/1_inline.component.html' },
  ],
  invalid: [
    { code: '<input type="checkbox" />', filename: 'a.html', errors: 1 },
    { code: '@for (a of b; track a) { <select><option>x</option></select> }', filename: 'a.html', errors: 1 },
    { code: '<button type="button" class="chip">x</button>', filename: 'a.html', errors: 1 },
    { code: '<table><tr><td>x</td></tr></table>', filename: 'a.html', errors: 1 },
    { code: '<details></details><dialog></dialog><progress></progress>', filename: 'a.html', errors: 3 },
    { code: '<input type="file" />', filename: 'web/src/app/bench/bench.html', errors: 1 },
  ],
});
console.log('the rule of bare controls holds');
