/** Lets the user pick files. */
export function pickFiles(label: string, endings: string, many: boolean, onPicked: (files: readonly File[]) => void): void {
  const input = document.createElement('input');
  input.type = 'file';
  input.accept = endings;
  input.multiple = many;
  input.setAttribute('aria-label', label);
  input.hidden = true;
  // In the page while it is open: browsers drop the choice of an input that is not.
  document.body.append(input);
  input.onchange = () => {
    const files = [...(input.files ?? [])];
    input.remove();
    onPicked(files);
  };
  input.oncancel = () => {
    input.remove();
  };
  input.click();
}
