/** A small picture of what a choice makes, no higher than what holds it. */
export function Small({ source, height }: { source: string; height: number }) {
  return <img src={source} alt="" draggable={false} style={{ maxWidth: "100%", maxHeight: height, objectFit: "contain" }} />;
}
