const minutes = (text) => Number(text.slice(0, 2)) * 60 + Number(text.slice(3));
const clock = (at) => `${String(Math.floor(at / 60) % 24).padStart(2, '0')}:${String(at % 60).padStart(2, '0')}`;

function harbourBy(harbours, id, route) {
  const harbour = harbours.find((each) => each.id === id);
  if (harbour === undefined) throw new Error(`data/routes.json: route ${route + 1} asks for the unknown harbour "${id}"`);
  return harbour;
}

export function sailingsOf(routes, harbours) {
  return routes.flatMap((route, number) => {
    const from = harbourBy(harbours, route.from, number);
    const to = harbourBy(harbours, route.to, number);
    const rows = [];
    for (let at = minutes(route.first); at <= minutes(route.last); at += route.every) {
      rows.push({ leaves: clock(at), from: from.name, fromId: from.id, to: to.name, toId: to.id, arrives: clock(at + route.minutes) });
    }
    return rows;
  }).sort((a, b) => (a.leaves < b.leaves ? -1 : 1));
}
