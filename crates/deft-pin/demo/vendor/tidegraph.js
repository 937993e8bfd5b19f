/* Tidegraph 0.4: draws a row of figures as a line. Needs Tideline. */
(function (root) {
  var Tideline = root.Tideline;
  function draw(element, values) {
    var range = Tideline.range(values), step = 100 / (values.length - 1);
    var points = values.map(function (value, at) {
      return (at * step).toFixed(1) + ',' + (36 - 32 * (value - range.low) / (range.high - range.low)).toFixed(1);
    });
    element.innerHTML = '<svg class="tidegraph" viewBox="0 0 100 40" preserveAspectRatio="none"><polyline points="' +
      points.join(' ') + '"></polyline></svg>';
  }
  root.Tidegraph = { draw: draw };
})(window);
