const WORDS: Record<number, (match: string[]) => string> = {
  1005: ([token]) => `“${token}” is missing here.`,
  1109: () => "Something is missing here: a value was expected.",
  2304: ([name]) => `Nothing here is named “${name}”.`,
  2552: ([name, other]) => `Nothing here is named “${name}”. Is “${other}” meant?`,
  2339: ([name, type]) => `A ${type} has no “${name}”.`,
  2551: ([name, type, other]) => `A ${type} has no “${name}”. Is “${other}” meant?`,
  2322: ([from, to]) => `A ${from} cannot be put where a ${to} is needed.`,
  2345: ([from, to]) => `A ${from} cannot be given where a ${to} is needed.`,
  2365: ([sign, left, right]) => `“${sign}” does not go between a ${left} and a ${right}.`,
  2588: ([name]) => `“${name}” is a constant.`,
  2540: ([name]) => `“${name}” cannot be changed.`,
  2532: () => "This may be undefined.",
  18048: ([name]) => `“${name}” may be undefined.`,
};

/** A message of the type checker in plain words. */
export function typeProblemInWords(number: number, message: string): string {
  const [first] = message.split("\n");
  const quoted = [...first.matchAll(/'([^']*)'/g)].map(([, text]) => text);
  const counts = /^Expected (.+) arguments?, but got (\d+)/.exec(first);
  if (counts) return `This takes ${counts[1]} values, and is given ${counts[2]}.`;
  if (/^Cannot find name '[^']*'|only refers to a type/.test(first) && !WORDS[number]) {
    return `Nothing here is named “${quoted[0]}”.`;
  }
  const words = WORDS[number]?.(quoted);
  return words || first;
}
