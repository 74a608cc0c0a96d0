/** The items of a list whose parts are parted by commas, as settings are written; space around them does not count. */
export function commaList(text: string): readonly string[] {
  return text
    .split(',')
    .map((one) => one.trim())
    .filter((one) => one !== '');
}
