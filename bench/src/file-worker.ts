import '@treenail/core/file-worker';
