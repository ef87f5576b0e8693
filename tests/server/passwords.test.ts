import { describe, expect, test } from "vitest";
import { hashPassword, isPassword } from "@/server/sign-in";

const PASSWORD = "seven larches by the lake";

describe("a password", () => {
  test("is kept as Argon2id of 19 MiB and two passes, each time with other salt, and never as it is", async () => {
    const [one, two] = [await hashPassword(PASSWORD), await hashPassword(PASSWORD)];
    expect(one).toMatch(/^\$argon2id\$v=19\$m=19456,t=2,p=1\$[^$]+\$[^$]+$/);
    expect(one).not.toBe(two);
    expect(await isPassword(one, PASSWORD)).toBe(true);
    expect(await isPassword(one, `${PASSWORD} `)).toBe(false);
    expect(await isPassword(null, "nobody has this one")).toBe(false);
  });

  test("is the same however a keyboard puts its letters together", async () => {
    const kept = await hashPassword("hüttenwart am see");
    expect(await isPassword(kept, "hüttenwart am see".normalize("NFD"))).toBe(true);
    expect(await isPassword(kept, "huttenwart am see")).toBe(false);
  });
});
