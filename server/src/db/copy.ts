/** Signature at the start of PostgreSQL's binary COPY format. */
const SIGNATURE = Buffer.from("PGCOPY\n\xff\r\n\0", "latin1");
const FLAGS_BYTES = 4;
/** In place of a row's number of columns: there are no more rows. */
const END = -1;

/**
 * The column of each row of a COPY of one column.
 *
 * @param copied  in PostgreSQL's binary COPY format
 * @returns views of `copied`; an empty one for a column that is null
 * @throws Error when it is in another format, cut short, or has more columns
 * @see https://www.postgresql.org/docs/16/sql-copy.html, Binary Format
 */
export function copiedRows(copied: Uint8Array): Uint8Array[] {
  const bytes = Buffer.from(copied.buffer, copied.byteOffset, copied.byteLength);
  if (!bytes.subarray(0, SIGNATURE.length).equals(SIGNATURE)) throw new Error("this is no binary COPY");
  let at = SIGNATURE.length + FLAGS_BYTES;
  at += 4 + bytes.readInt32BE(at);
  const rows: Uint8Array[] = [];
  for (;;) {
    const columns = bytes.readInt16BE(at);
    if (columns === END) return rows;
    if (columns !== 1) throw new Error(`a row of the COPY has ${columns} columns, not one`);
    const length = Math.max(0, bytes.readInt32BE(at + 2));
    const start = at + 6;
    if (start + length > bytes.length) throw new Error("the COPY is cut short");
    rows.push(bytes.subarray(start, start + length));
    at = start + length;
  }
}
