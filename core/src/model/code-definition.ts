/** One code of what is refused or noted. */
export interface CodeDefinition {
  /** When it is given. */
  readonly when: string;
  /** What a person can do about it. */
  readonly act: string;
  /** HTTP status of the answer (RFC 9110, 15); 422 where not said. */
  readonly status?: number;
}
