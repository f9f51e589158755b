import { describeError, OmbrageError } from '../../core/error';

/** Errors cross to the page as plain data, so that their code and hint survive. */
export const guard =
  <A extends unknown[], R>(work: (...args: A) => R | Promise<R>) =>
  async (...args: A): Promise<R> => {
    try {
      return await work(...args);
    } catch (error) {
      if (error instanceof OmbrageError) throw Object.assign(new Error(error.message), { name: `${error.code}|${error.hint}` });
      throw new Error(describeError(error));
    }
  };
