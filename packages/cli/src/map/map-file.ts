import { textOfFile } from '../text-of-file.ts';

/** The text of a map's file. Throws Misuse where it cannot be read. */
export function mapFile(path: string): Promise<string> {
  return textOfFile(path, `vaquero map PROJECT --text > ${path} writes one`);
}
