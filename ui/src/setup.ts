import { configure } from "@testing-library/dom";

// A test waits for what it looks for, not for a clock: a busy machine takes longer.
configure({ asyncUtilTimeout: 60_000 });
