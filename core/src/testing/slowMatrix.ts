/** Matrices as rows of numbers, multiplied out the slow way: what the fast ones are compared with in tests. */
export type Rows = number[][];
const RADIANS = Math.PI / 180;

/** Plain row-by-column products of square matrices. */
export const product = (...all: Rows[]): Rows =>
  all.reduce((a, b) =>
    a.map((row) => b[0].map((_, column) => row.reduce((sum, one, k) => sum + one * b[k][column], 0))),
  );

/** A turn about each axis, in degrees. */
export const about = {
  x: (degrees: number): Rows => {
    const [c, s] = [Math.cos(degrees * RADIANS), Math.sin(degrees * RADIANS)];
    return [
      [1, 0, 0, 0],
      [0, c, -s, 0],
      [0, s, c, 0],
      [0, 0, 0, 1],
    ];
  },
  y: (degrees: number): Rows => {
    const [c, s] = [Math.cos(degrees * RADIANS), Math.sin(degrees * RADIANS)];
    return [
      [c, 0, s, 0],
      [0, 1, 0, 0],
      [-s, 0, c, 0],
      [0, 0, 0, 1],
    ];
  },
  z: (degrees: number): Rows => {
    const [c, s] = [Math.cos(degrees * RADIANS), Math.sin(degrees * RADIANS)];
    return [
      [c, -s, 0, 0],
      [s, c, 0, 0],
      [0, 0, 1, 0],
      [0, 0, 0, 1],
    ];
  },
};

/** Turns about x, y and z in this order, as a rotation property has them. */
export const turnedBy = ([x, y, z]: readonly number[]): Rows => product(about.x(x), about.y(y), about.z(z));

export const moved = ([x, y, z]: readonly number[]): Rows => [
  [1, 0, 0, x],
  [0, 1, 0, y],
  [0, 0, 1, z],
  [0, 0, 0, 1],
];

export const sized = ([x, y, z]: readonly number[]): Rows => [
  [x, 0, 0, 0],
  [0, y, 0, 0],
  [0, 0, z, 0],
  [0, 0, 0, 1],
];

/** Column by column, as matrices are handed to the player. */
export const byColumn = (rows: Rows): number[] =>
  rows[0].flatMap((_, column) => rows.map((row) => row[column]));
