Sorrel.ready(function () {
  var cells = document.querySelectorAll('#status time');
  var range = Tideline.range([6, 40]);
  cells.forEach(function (cell) { cell.title = 'minutes ' + range.low + ' to ' + range.high; });
});
