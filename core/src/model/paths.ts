/** Package paths: forward slashes, relative to the package, no dot segments. */

/** The folder of a path, with its closing slash, or the empty string. */
export function folderOf(path: string): string {
  return path.slice(0, path.lastIndexOf('/') + 1);
}

export function baseName(path: string): string {
  return path.slice(path.lastIndexOf('/') + 1);
}

export function extensionOf(path: string): string {
  const name = baseName(path);
  const dot = name.lastIndexOf('.');
  return dot > 0 ? name.slice(dot + 1).toLowerCase() : '';
}

/** Percent-decoding that leaves a malformed sequence as it stands instead of throwing. */
export function decodePercent(text: string): string {
  try {
    return decodeURIComponent(text);
  } catch {
    return text;
  }
}

/** What a path has that is not its own simplest spelling: nearly all have nothing of it. */
const ROUNDABOUT = /[?#]|^[./]|\/[./]|\/$/;

/** Resolves `relative` against a folder; `null` if it would leave the package. Query and fragment are cut off. */
export function resolvePath(folder: string, relative: string): string | null {
  const plain = folder + relative;
  if (!ROUNDABOUT.test(plain) && !relative.startsWith('/')) return plain;
  const bare = relative.split(/[?#]/, 1)[0] ?? '';
  const segments = (bare.startsWith('/') ? bare.slice(1) : folder + bare).split('/');
  const out: string[] = [];
  for (const segment of segments) {
    if (segment === '' || segment === '.') continue;
    if (segment === '..') {
      if (out.length === 0) return null;
      out.pop();
    } else out.push(segment);
  }
  return out.join('/');
}

/** A path by which names that differ in case only, or in how letters with marks are composed (Unicode, annex 15), are one. */
export function foldedPath(path: string): string {
  return path.normalize('NFC').toLowerCase();
}

/** `to` as seen from the folder of `from`. */
export function relativePath(from: string, to: string): string {
  const a = folderOf(from).split('/').slice(0, -1);
  const b = to.split('/');
  let same = 0;
  while (same < a.length && same < b.length - 1 && a[same] === b[same]) same++;
  return '../'.repeat(a.length - same) + b.slice(same).join('/');
}

const MEDIA_TYPES: Record<string, string> = {
  html: 'text/html',
  htm: 'text/html',
  xhtml: 'application/xhtml+xml',
  css: 'text/css',
  js: 'text/javascript',
  xml: 'application/xml',
  txt: 'text/plain',
  csv: 'text/csv',
  ics: 'text/calendar',
  md: 'text/markdown',
  json: 'application/json',
  png: 'image/png',
  jpg: 'image/jpeg',
  jpeg: 'image/jpeg',
  gif: 'image/gif',
  svg: 'image/svg+xml',
  webp: 'image/webp',
  pdf: 'application/pdf',
  docx: 'application/vnd.openxmlformats-officedocument.wordprocessingml.document',
  xlsx: 'application/vnd.openxmlformats-officedocument.spreadsheetml.sheet',
  pptx: 'application/vnd.openxmlformats-officedocument.presentationml.presentation',
  mp3: 'audio/mpeg',
  m4a: 'audio/mp4',
  wav: 'audio/wav',
  ogg: 'audio/ogg',
  mp4: 'video/mp4',
  webm: 'video/webm',
  zip: 'application/zip',
};

/** Media type by extension; what is not known is `application/octet-stream`. */
export function mediaTypeOf(path: string): string {
  return MEDIA_TYPES[extensionOf(path)] ?? 'application/octet-stream';
}
