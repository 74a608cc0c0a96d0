const now = new Date().toTimeString().slice(0, 5);
for (const row of document.querySelectorAll('tr')) if (row.cells[0]?.textContent < now) row.style.opacity = '0.55';
