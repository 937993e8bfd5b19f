(function () {
  var figures = document.querySelector('#tides .tide-figures');
  var chart = document.querySelector('#tides .tide-chart');
  Tidegraph.draw(chart, Tideline.numbers(figures.dataset.tides));
})();
