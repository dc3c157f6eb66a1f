import '@treenail/core/file-sink-thread';
