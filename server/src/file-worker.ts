/** A thread that reads files of a course beside the one that looks inside. */
import '@treenail/core/file-worker';
