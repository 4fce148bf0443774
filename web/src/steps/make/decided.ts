import type { Build } from "../../api/client";

/** What a person decided about the making. */
export type Make = NonNullable<Build["make"]>;

/** What is decided about a build; nothing yet, where nobody decided anything. */
export const makeOf = (build: Build): Make => (build.make ??= { sessions: [], fixings: [], rolls: [], prices: [], spaces: [], inside: [], positions: [] });
