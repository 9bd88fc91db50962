document.getElementById('root')!.textContent = 'Akmeon';
