Sorrel.ready(function () {
  var line = document.querySelector('#status .status-line');
  var until = document.createElement('span');
  until.className = 'storm-until';
  until.textContent = 'Gale warning from Friday: look here again before you travel.';
  line.append(until);
});
