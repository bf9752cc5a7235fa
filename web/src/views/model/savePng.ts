/** Hand a picture to the browser as a file. */
export function savePng(picture: HTMLCanvasElement, name: string): void {
  picture.toBlob((data) => {
    if (!data) return;
    const link = document.createElement("a");
    link.href = URL.createObjectURL(data);
    link.download = `${name}.png`;
    link.click();
    URL.revokeObjectURL(link.href);
  }, "image/png");
}
