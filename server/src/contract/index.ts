/** The HTTP interface, shared with the web application: what is asked and answered, and every call there is. */
export * from './shapes.ts';
export * from './endpoint.ts';
export * from './endpoints/index.ts';
