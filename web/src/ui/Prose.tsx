import { inOwn } from "../units";

/** The core's sentences; their lengths and days in the person's own form; between backticks is the name of a part. */
export function Prose({ text }: { text: string }) {
  return (
    <>
      {inOwn(text)
        .split("`")
        .map((piece, index) =>
          index % 2 ? (
            <b key={index} style={{ overflowWrap: "anywhere" }}>
              {piece}
            </b>
          ) : (
            piece
          ),
        )}
    </>
  );
}
