Sorrel.ready(function () {
  var cells = document.querySelectorAll('#status time');
  cells.forEach(function (cell) { cell.title = 'soon'; });
