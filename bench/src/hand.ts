import '@treenail/core/hand';
