const sailings = JSON.parse(document.getElementById('sailings').textContent);
const form = document.querySelector('form');
const [, , from = 'lune-quay', to = 'orrin'] = location.pathname.split('/').map((part) => part || undefined);
form.from.value = from;
form.to.value = to;
const found = sailings.filter((one) => one.fromId === from && one.toId === to);
document.querySelector('h1').textContent = `${form.from.selectedOptions[0]?.text ?? from} to ${form.to.selectedOptions[0]?.text ?? to}`;
const journey = document.getElementById('journey');
journey.textContent = found.length === 0 ? 'No boat sails there without a change.' : '';
for (const { leaves, arrives } of found) {
  const line = document.createElement('p');
  line.textContent = `leaves ${leaves}, arrives ${arrives}`;
  journey.append(line);
}
form.addEventListener('submit', (event) => {
  event.preventDefault();
  location.href = `/planner/${form.from.value}/${form.to.value}`;
});
