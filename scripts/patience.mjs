/** Specs run beside the linters on a shared machine: what takes a second alone may take ten there. */
jasmine.DEFAULT_TIMEOUT_INTERVAL = 60_000;
