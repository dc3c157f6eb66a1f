/// <reference lib="webworker" />
// The library's own worker, bundled like Treenail's: nothing is fetched from elsewhere.
import 'pdfjs-dist/build/pdf.worker.min.mjs';
