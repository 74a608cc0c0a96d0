export function page(title, body, settings) {
  return `<!doctype html>
<html lang="en" class="${settings.season}${settings.largeTimes ? ' large' : ''}">
<head><meta charset="utf-8"><meta name="viewport" content="width=device-width"><title>${title} - Kettle Sound Ferries</title><link rel="stylesheet" href="/style.css"></head>
<body><header><a href="/">Kettle Sound Ferries</a></header><main><h1>${title}</h1>${body}</main><script src="/board.js" defer></script></body>
</html>
`;
}
