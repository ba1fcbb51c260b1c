/** With less, m/s², a jump would rise for minutes, and take long to work out. */
export const LEAST_GRAVITY = 0.02;

/**
 * Speed that lifts a body as high as is asked, against gravity and its own damping, in the steps that bodies are computed in:
 * in each round gravity changes the speed and then the speed the place, and after the rounds of a step the damping takes its
 * share of the speed.
 *
 * @param heightM  metres, against gravity
 * @param gravity  m/s²; under {@link LEAST_GRAVITY} it counts as that
 * @param damping  per second, 0 for none
 * @param stepS  seconds of a step
 * @param rounds  of a step
 * @returns m/s
 *
 * @example
 * launchSpeed(1.5, 9.81, 0, 1 / 120, 2); // 5.445: a little more than sqrt(2 · 9.81 · 1.5)
 */
export function launchSpeed(
  heightM: number,
  gravity: number,
  damping: number,
  stepS: number,
  rounds: number,
): number {
  const pull = Math.max(LEAST_GRAVITY, gravity);
  const roundS = stepS / rounds;
  const peak = (speed: number) => {
    let [velocity, place, highest] = [speed, 0, 0];
    while (velocity > 0) {
      for (let round = 0; round < rounds; round++) {
        velocity -= pull * roundS;
        place += velocity * roundS;
        highest = Math.max(highest, place);
      }
      velocity /= 1 + stepS * damping;
    }
    return highest;
  };
  let low = Math.sqrt(2 * pull * heightM);
  let high = 2 * low + pull * stepS;
  while (peak(high) < heightM) high *= 2;
  for (let halving = 0; halving < 24; halving++) {
    const middle = (low + high) / 2;
    if (peak(middle) < heightM) low = middle;
    else high = middle;
  }
  return high;
}
