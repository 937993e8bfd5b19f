Sorrel.ready(function () { document.body.classList.add('is-curent'); });
document.querySelector('#staus .status-line').hidden = false;
document.querySelector('#status').dataset.seen = 'yes';
window.Sorrel = { ticker: true };
Toast.show('All sailings run');
