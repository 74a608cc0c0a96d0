/** Takes a recipe along as the file that it is or would be. */
export function RecipeDownload({ text }: { readonly text: string }) {
  return (
    <a
      download="vaquero.yaml"
      href={`data:application/yaml;charset=utf-8,${encodeURIComponent(text)}`}
    >
      Download it as vaquero.yaml
    </a>
  );
}
