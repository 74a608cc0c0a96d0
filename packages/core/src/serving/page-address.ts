/** What a browser asks for as a part of a page, told by its ending; an address without one is a page's. */
const partEndings =
  /\.(?:m?js|cjs|css|map|json|webmanifest|xml|txt|png|jpe?g|gif|webp|avif|svg|ico|bmp|woff2?|ttf|otf|eot|wasm|pdf|zip|gz|mp[34]|webm|ogg|wav|m4a|mov|csv|ics|gpx|geojson|ya?ml|md|bin|data)$/i;

/** Whether an address can be a page's: a script that is not there must not be answered with one. */
export function mayBePage(address: string): boolean {
  return !partEndings.test(address);
}
