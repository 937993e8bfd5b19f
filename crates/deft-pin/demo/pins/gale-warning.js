const warning = document.querySelector('.gale-warning');
warning.classList.add('is-open');

function closeWarning() {
  warning.remove();
}
