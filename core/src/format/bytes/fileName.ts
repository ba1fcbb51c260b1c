const LONGEST = 60;

/**
 * A name as a file name that every system takes: lower-case letters and digits of ASCII, with dashes between words.
 *
 * @param name  as people write it; letters with accents lose these, other scripts are left out
 * @param otherwise  the file name where nothing is left of it
 */
export function plainFileName(name: string, otherwise: string): string {
  const plain = name
    .normalize("NFKD")
    .replace(/[^\w\s-]/g, "")
    .trim()
    .replace(/[\s_]+/g, "-")
    .slice(0, LONGEST)
    .toLowerCase();
  return plain || otherwise;
}
