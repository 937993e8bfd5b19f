Sorrel.ready(function () {
  document.querySelector('#staus .status-line').classList.add('is-curent');
});
document.querySelector('#status').dataset.seen = 'yes';
window.Sorrel = { ticker: true };
Toast.show('All sailings run');
