/** Let the browser save a file. */
export function fetchFile(address: string, name = "") {
  const link = document.createElement("a");
  link.href = address;
  link.download = name;
  link.click();
}
