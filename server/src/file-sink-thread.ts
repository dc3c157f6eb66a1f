/** The thread that hashes and copies for a file that is written. */
import '@treenail/core/file-sink-thread';
