/** Specs run beside the linters on a shared machine: what takes a second alone may take a minute there. */
jasmine.DEFAULT_TIMEOUT_INTERVAL = 180_000;
