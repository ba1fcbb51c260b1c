/** Everything a person needs to put something right. */
export interface Finding {
  /** Stable identifier for programs, in kebab-case. */
  code: string;
  /** The problem, as a sentence without a full stop. */
  what: string;
  /** Where: a file, a byte offset, a path in a document. */
  where: string;
  /** The way to mend it. */
  remedy: string;
}

/** An error whose message says what, where and what to do. */
export class BumbrelError extends Error implements Finding {
  readonly code: string;
  readonly what: string;
  readonly where: string;
  readonly remedy: string;

  constructor(finding: Finding) {
    super(`${finding.where ? `${finding.where}: ` : ""}${finding.what}. ${finding.remedy}`);
    this.name = new.target.name;
    this.code = finding.code;
    this.what = finding.what;
    this.where = finding.where;
    this.remedy = finding.remedy;
  }
}

/** The error itself when it is ours; in place of any other, whose words nobody here chose, one of ours. */
export const ownError = (error: unknown, inPlace: Finding): BumbrelError =>
  error instanceof BumbrelError ? error : new BumbrelError(inPlace);

/** A sound's bytes cannot be read. */
export class SoundFormatError extends BumbrelError {}

/** An image or model cannot be read, or is not accepted. */
export class AssetFormatError extends BumbrelError {}

/** A scene document breaks its schema or its own references. */
export class SceneFormatError extends BumbrelError {
  readonly problems: Finding[];

  constructor(problems: Finding[]) {
    const first = problems[0];
    const more = problems.length > 1 ? ` (and ${problems.length - 1} more)` : "";
    super({ ...first, what: first.what + more });
    this.problems = problems;
  }
}

/** A take cannot be read. */
export class TakeFormatError extends BumbrelError {}
