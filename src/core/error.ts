/**
 * The one error people see. `message` says what happened and to what (file or value); `hint` says what to do.
 * `code` is stable and kebab-case.
 */
export class OmbrageError extends Error {
  constructor(
    readonly code: string,
    message: string,
    readonly hint: string = '',
  ) {
    super(message);
    this.name = 'OmbrageError';
  }
}

/** Message and hint of anything thrown, in one line. */
export function describeError(error: unknown): string {
  if (error instanceof OmbrageError) return error.hint ? `${error.message} ${error.hint}` : error.message;
  return error instanceof Error ? error.message : String(error);
}
