process.env.CHROME_BIN ??= '/usr/bin/chromium';
module.exports = (config) =>
  config.set({
    basePath: '',
    frameworks: ['jasmine'],
    reporters: ['progress'],
    browsers: ['ChromeHeadlessRoot'],
    plugins: [require('karma-jasmine'), require('karma-chrome-launcher'), require('karma-coverage')],
    client: { jasmine: { random: true, timeoutInterval: 120000 }, clearContext: false },
    // A busy machine may hold the browser up for longer than it takes to give it up.
    pingTimeout: 60000,
    browserDisconnectTimeout: 60000,
    browserNoActivityTimeout: 180000,
    captureTimeout: 180000,
    customLaunchers: {
      ChromeHeadlessRoot: {
        base: 'ChromeHeadless',
        flags: [
          '--no-sandbox',
          '--disable-gpu',
          '--disable-dev-shm-usage',
          '--disable-quic',
          '--no-first-run',
          '--disable-background-networking',
          '--disable-component-update',
          '--disable-sync',
        ],
      },
    },
  });
