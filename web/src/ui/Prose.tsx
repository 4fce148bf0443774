/** The core's sentences; what stands between backticks is the name of a part. */
export function Prose({ text }: { text: string }) {
  return (
    <>
      {text.split("`").map((piece, index) =>
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
