import type { Build } from "../api/client";

/** What a build is called among files. */
export const fileName = (build: Build, kind = "json") =>
  `${
    build.name
      .toLowerCase()
      .replace(/[^a-z0-9]+/g, "-")
      .replace(/^-|-$/g, "") || "build"
  }.${kind}`;
