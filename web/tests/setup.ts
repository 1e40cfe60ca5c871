/** What every test begins with: a server that has nothing to say, and the time as it is. */
import { beforeEach, vi } from "vitest";
import { forgetAnswers } from "./server";

beforeEach(() => {
  forgetAnswers();
  vi.useRealTimers();
});
