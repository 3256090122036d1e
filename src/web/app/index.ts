document.getElementById('ruddle')!.textContent = 'x';
