import { expect, test } from "vitest";
import { createStore } from "zustand/vanilla";
import { toldTogether } from "./told-together";

const made = () => {
  const store = toldTogether(createStore(() => ({ a: 0, b: 0 })));
  const heard: string[] = [];
  store.subscribe((now, before) => heard.push(`${before.a}${before.b}>${now.a}${now.b}`));
  return { store, heard };
};

test("changes are told one by one, and those of one deed together, with what was before it", () => {
  const { store, heard } = made();
  store.setState({ a: 1 });
  store.asOne(() => {
    store.setState({ a: 2 });
    // They are there at once.
    expect(store.getState().a).toBe(2);
    store.asOne(() => store.setState({ b: 1 }));
    store.setState({ b: 2 });
    expect(heard).toEqual(["00>10"]);
  });
  store.setState({ b: 3 });
  expect(heard).toEqual(["00>10", "10>22", "22>23"]);
});

test("a deed without changes tells nothing; one that fails tells what it had changed", () => {
  const { store, heard } = made();
  store.asOne(() => undefined);
  expect(() =>
    store.asOne(() => {
      store.setState({ a: 5 });
      throw new Error("half done");
    }),
  ).toThrow("half done");
  store.setState({ b: 1 });
  expect(heard).toEqual(["00>50", "50>51"]);
});

test("who listens no more hears no more", () => {
  const { store } = made();
  let heard = 0;
  const end = store.subscribe(() => heard++);
  store.setState({ a: 1 });
  end();
  store.setState({ a: 2 });
  expect(heard).toBe(1);
});
