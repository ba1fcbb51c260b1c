/** A copy of a document, or of a part of one, that shares nothing with it; of a draft that is being edited as well. */
export const copyOf = <T>(value: T): T => JSON.parse(JSON.stringify(value)) as T;
