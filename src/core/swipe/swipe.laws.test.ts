import fc from "fast-check";
import { describe, expect, test } from "vitest";
import {
  fingerDown,
  fingerMoved,
  fingerUp,
  RESTING,
  SILENCE_MS,
  SWIPES,
  UP,
  wheelPushed,
  wheelRested,
  type Finger,
  type Sample,
  type Swipe,
  type Wheel,
} from ".";

const WIDTH = 400;
const at = (xPx: number, yPx: number, tMs: number): Sample => ({ xPx, yPx, tMs });

/** A whole touch: where it went, one sample every so many milliseconds. */
function touch(
  points: readonly (readonly [x: number, y: number])[],
  everyMs = 100,
): { shows: (Swipe | null)[]; does: Swipe | null } {
  const samples = points.map(([x, y], i) => at(x, y, i * everyMs));
  let finger: Finger = fingerDown(samples[0]!);
  const shows = samples.slice(1).map((sample) => {
    const seen = fingerMoved(finger, sample, WIDTH);
    finger = seen.finger;
    return seen.shows;
  });
  return { shows, does: fingerUp(finger, samples.at(-1)!, WIDTH) };
}

describe("a finger on a row", () => {
  test("shows what letting go would do, and does it", () => {
    expect(
      touch([
        [0, 0],
        [30, 0],
        [90, 2],
        [220, 5],
      ]),
    ).toEqual({ shows: [null, "right-short", "right-long"], does: "right-long" });
    expect(
      touch([
        [300, 0],
        [260, 0],
        [210, 0],
      ]),
    ).toEqual({ shows: [null, "left-short"], does: "left-short" });
  });
  test("sliding back does nothing", () => {
    expect(
      touch([
        [0, 0],
        [120, 0],
        [250, 0],
        [40, 0],
        [20, 0],
      ]).does,
    ).toBeNull();
  });
  test("a fast flick counts as long, a slow one of the same length does not", () => {
    expect(
      touch(
        [
          [0, 0],
          [30, 0],
          [60, 0],
        ],
        16,
      ).does,
    ).toBe("right-long");
    expect(
      touch(
        [
          [0, 0],
          [30, 0],
          [60, 0],
        ],
        200,
      ).does,
    ).toBeNull();
  });
  test("a flick back the other way is none of either", () => {
    expect(
      touch(
        [
          [0, 0],
          [200, 0],
          [90, 0],
          [30, 0],
        ],
        30,
      ).does,
    ).toBeNull();
  });
  test("what began as a scroll stays one", () => {
    expect(
      touch([
        [0, 0],
        [5, 40],
        [200, 60],
        [390, 60],
      ]),
    ).toEqual({ shows: [null, null, null], does: null });
  });
  test("a trembling tap is no swipe", () => {
    expect(
      touch([
        [0, 0],
        [6, 3],
        [4, 1],
      ]).does,
    ).toBeNull();
  });
  test.each([
    [9, 0, null],
    [71, 0, null],
    [72, 0, "right-short"],
    [-72, 0, "left-short"],
    [199, 0, "right-short"],
    [200, 0, "right-long"],
    [-200, 0, "left-long"],
    [100, 100, null],
    [101, 100, "right-short"],
  ])("slowly to %i, %i of a row of 400 is %j", (x, y, does) => {
    expect(
      touch(
        [
          [0, 0],
          [x, y],
        ],
        1000,
      ),
    ).toEqual({ shows: [does], does });
  });
  test("it begins at ten pixels: before, it may still become either", () => {
    const moved = (x: number, y: number) => fingerMoved(fingerDown(at(0, 0, 0)), at(x, y, 10), WIDTH);
    expect(moved(9, 9)).toMatchObject({ finger: { phase: "down" }, offsetPx: 0 });
    expect(moved(10, 9)).toMatchObject({ finger: { phase: "across" }, offsetPx: 10 });
    expect(moved(-10, 0)).toMatchObject({ finger: { phase: "across" }, offsetPx: -10 });
    expect(moved(9, 10)).toMatchObject({ finger: { phase: "scroll" }, offsetPx: 0 });
  });
  test("a flick is 0.9 pixels a millisecond over its last 80, and no less", () => {
    const flick = (px: number, ms: number) => {
      const down = fingerDown(at(0, 0, 0));
      return fingerUp(fingerMoved(down, at(px, 0, ms), WIDTH).finger, at(px, 0, ms), WIDTH);
    };
    expect(flick(45, 50)).toBe("right-long");
    expect(flick(-45, 50)).toBe("left-long");
    expect(flick(44, 50)).toBeNull();
    // Only the last 80 ms count: a finger that stops first is slow, one that runs off after a rest is fast.
    const rested = [at(0, 0, 0), at(20, 0, 10), at(21, 0, 500), at(60, 0, 540)];
    let finger = fingerDown(rested[0]!);
    for (const sample of rested.slice(1)) finger = fingerMoved(finger, sample, WIDTH).finger;
    expect(finger).toMatchObject({ trail: [rested[2], rested[3]] });
    expect(fingerUp(finger, rested[3]!, WIDTH)).toBe("right-long");
    const edge = [at(0, 0, 0), at(20, 0, 100), at(60, 0, 180)];
    finger = fingerDown(edge[0]!);
    for (const sample of edge.slice(1)) finger = fingerMoved(finger, sample, WIDTH).finger;
    expect(finger).toMatchObject({ trail: [edge[1], edge[2]] });
  });
  test("nothing happens to a finger that is not down", () => {
    expect(fingerMoved(UP, at(300, 0, 0), WIDTH)).toEqual({ finger: UP, offsetPx: 0, shows: null });
    expect(fingerUp(UP, at(300, 0, 0), WIDTH)).toBeNull();
  });
});

describe("laws", () => {
  const point = fc.tuple(fc.integer({ min: -400, max: 400 }), fc.integer({ min: -50, max: 50 }));
  test("whatever the finger does, the side is the one it ends on, and slow it does what it showed last", () => {
    fc.assert(
      fc.property(fc.array(point, { minLength: 2, maxLength: 12 }), (points) => {
        const { shows, does } = touch([[0, 0], ...points], 1000);
        expect(does).toBe(shows.at(-1));
        if (does) {
          expect(SWIPES).toContain(does);
          expect(does.startsWith("right")).toBe(points.at(-1)![0] > 0);
        }
      }),
    );
  });
  test("a mirrored touch does the mirrored thing", () => {
    fc.assert(
      fc.property(
        fc.array(point, { minLength: 2, maxLength: 12 }),
        fc.integer({ min: 5, max: 300 }),
        (points, every) => {
          const one = touch([[0, 0], ...points], every).does;
          const other = touch([[0, 0], ...points.map(([x, y]) => [-x, y] as const)], every).does;
          const mirrored = one?.replace(/right|left/, (side) => (side === "right" ? "left" : "right")) ?? null;
          expect(other).toBe(mirrored);
        },
      ),
    );
  });
});

/** Pushes of a trackpad, one every so many milliseconds, and then silence. */
function pushes(moves: readonly (readonly [dx: number, dy: number])[], everyMs = 16) {
  let wheel: Wheel = RESTING;
  const shows: (Swipe | null)[] = [];
  const offsets: number[] = [];
  moves.forEach(([dxPx, dyPx], i) => {
    const seen = wheelPushed(wheel, { dxPx, dyPx, tMs: i * everyMs }, WIDTH);
    wheel = seen.wheel;
    shows.push(seen.shows);
    offsets.push(seen.offsetPx);
  });
  return { shows, offsets, phase: wheel.phase, does: wheelRested(wheel, WIDTH) };
}

describe("two fingers on a trackpad", () => {
  test("pushed to the left the row goes right, short or long by how far it came", () => {
    expect(
      pushes([
        [-40, 0],
        [-40, 2],
      ]),
    ).toMatchObject({ shows: [null, "right-short"], does: "right-short" });
    expect(pushes(Array(10).fill([30, 1])).does).toBe("left-long");
    expect(pushes([[-60, 0]]).does).toBeNull();
    expect(pushes([[-72, 0]]).does).toBe("right-short");
    expect(pushes([[200, 0]]).does).toBe("left-long");
    expect(pushes([[199, 0]]).does).toBe("left-short");
  });
  test("pushed back, it does nothing; never further than the row is wide", () => {
    expect(
      pushes([
        [-150, 0],
        [-90, 0],
        [200, 0],
      ]).does,
    ).toBeNull();
    expect(pushes(Array(50).fill([-90, 0])).offsets.at(-1)).toBe(WIDTH);
    expect(pushes([...Array(50).fill([90, 0]), [-WIDTH, 0]]).does).toBeNull();
  });
  test("what begins downwards scrolls to its end, and what begins across stays across", () => {
    expect(
      pushes([
        [1, 30],
        [-300, 0],
        [-300, 0],
      ]),
    ).toMatchObject({ phase: "scroll", does: null });
    expect(
      pushes([
        [30, 30],
        [-300, 0],
      ]).phase,
    ).toBe("scroll");
    expect(
      pushes([
        [-30, 20],
        [-100, 400],
      ]).does,
    ).toBe("right-short");
  });
  test("after a silence it begins anew", () => {
    expect(
      pushes(
        [
          [-150, 0],
          [-150, 0],
        ],
        SILENCE_MS,
      ).does,
    ).toBe("right-long");
    expect(
      pushes(
        [
          [-150, 0],
          [-150, 0],
        ],
        SILENCE_MS + 1,
      ).does,
    ).toBe("right-short");
    expect(
      pushes(
        [
          [0, 30],
          [-150, 0],
        ],
        SILENCE_MS,
      ).does,
    ).toBeNull();
    expect(
      pushes(
        [
          [0, 30],
          [-150, 0],
        ],
        SILENCE_MS + 1,
      ).does,
    ).toBe("right-short");
    expect(wheelRested(RESTING, WIDTH)).toBeNull();
  });
  test("however the way is cut into pushes, what it comes to is the same", () => {
    fc.assert(
      fc.property(
        fc.array(fc.integer({ min: 1, max: 6 }), { minLength: 1, maxLength: 40 }),
        fc.boolean(),
        (cut, left) => {
          const sum = cut.reduce((a, b) => a + b, 0);
          const moves = cut.map((part) => [left ? part : -part, 0] as const);
          expect(pushes(moves).does).toBe(pushes([[left ? sum : -sum, 0]]).does);
        },
      ),
    );
  });
});

describe("where one thing ends and the next begins", () => {
  test("a swipe is across wherever on the screen it began", () => {
    const moved = fingerMoved(fingerDown(at(300, 700, 0)), at(220, 704, 30), WIDTH);
    expect([moved.offsetPx, moved.shows]).toEqual([-80, "left-short"]);
    expect(fingerMoved(fingerDown(at(300, 700, 0)), at(304, 640, 30), WIDTH).finger).toEqual({ phase: "scroll" });
  });

  // Of a row 400 wide: 18 in a hundred are 72, half of it is 200.
  test.each([
    [71, null],
    [72, "right-short"],
    [199, "right-short"],
    [200, "right-long"],
    [-71, null],
    [-72, "left-short"],
    [-200, "left-long"],
  ] as const)("%s px across show %s", (dx, shows) => {
    expect(fingerMoved(fingerDown(at(500, 0, 0)), at(500 + dx, 0, 1000), WIDTH).shows).toBe(shows);
  });

  test("ten pixels are a movement, nine a trembling hand", () => {
    expect(fingerMoved(fingerDown(at(0, 0, 0)), at(9, 9, 30), WIDTH).finger.phase).toBe("down");
    expect(fingerMoved(fingerDown(at(0, 0, 0)), at(10, 9, 30), WIDTH).finger.phase).toBe("across");
  });

  test("the speed of a flick is that of its last 80 milliseconds", () => {
    const flick = (pauseMs: number) => {
      const slow = fingerMoved(fingerDown(at(0, 0, 0)), at(12, 0, 1000), WIDTH).finger;
      const end = at(62, 0, 1000 + pauseMs);
      return fingerUp(fingerMoved(slow, end, WIDTH).finger, end, WIDTH);
    };
    // 50 px in 55 ms are fast enough, in 56 they are not; what lies further back than 80 does not count.
    expect([flick(55), flick(56)]).toEqual(["right-long", null]);
    const back = (pauseMs: number) => {
      const far = fingerMoved(fingerDown(at(100, 0, 0)), at(20, 0, 10), WIDTH).finger;
      const end = at(172, 0, 10 + pauseMs);
      return fingerUp(fingerMoved(far, end, WIDTH).finger, end, WIDTH);
    };
    expect([back(80), back(81)]).toEqual(["right-long", "right-short"]);
  });

  test("two fingers that rest for longer than 180 milliseconds begin anew", () => {
    const second = (afterMs: number) => {
      const first = wheelPushed(RESTING, { dxPx: -50, dyPx: 0, tMs: 0 }, WIDTH).wheel;
      return wheelPushed(first, { dxPx: -50, dyPx: 0, tMs: afterMs }, WIDTH);
    };
    expect([second(180).offsetPx, second(181).offsetPx]).toEqual([100, 50]);
    // The smallest step there is has a direction too.
    expect(wheelPushed(RESTING, { dxPx: -1, dyPx: 0, tMs: 0 }, 5).shows).toBe("right-short");
    expect(wheelPushed(RESTING, { dxPx: 1, dyPx: 0, tMs: 0 }, 5).shows).toBe("left-short");
  });
});
