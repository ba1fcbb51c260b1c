/** What a person needs to put something right. */
export interface Trouble {
  /** Stable identifier for programs, in kebab-case. */
  code: string;
  /** What is wrong, as a sentence without a full stop. */
  what: string;
  /** Where: a file, a byte offset, a path in a document. */
  where: string;
  /** What to do about it. */
  remedy: string;
}

/** An error whose message says what, where and what to do. */
export class BumbrelError extends Error implements Trouble {
  readonly code: string;
  readonly what: string;
  readonly where: string;
  readonly remedy: string;

  constructor(trouble: Trouble) {
    super(`${trouble.where ? `${trouble.where}: ` : ""}${trouble.what}. ${trouble.remedy}`);
    this.name = new.target.name;
    this.code = trouble.code;
    this.what = trouble.what;
    this.where = trouble.where;
    this.remedy = trouble.remedy;
  }
}

/** A sound's bytes cannot be read. */
export class SoundFormatError extends BumbrelError {}

/** A picture or model cannot be read, or is not taken. */
export class AssetFormatError extends BumbrelError {}

/** A scene document breaks its schema or its own references. */
export class SceneFormatError extends BumbrelError {
  readonly problems: Trouble[];

  constructor(problems: Trouble[]) {
    const first = problems[0];
    const more = problems.length > 1 ? ` (and ${problems.length - 1} more)` : "";
    super({ ...first, what: first.what + more });
    this.problems = problems;
  }
}
