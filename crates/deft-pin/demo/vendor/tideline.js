/* Tideline 1.2: small helpers for figures that rise and fall. */
(function (root) {
  function numbers(text) { return String(text).trim().split(/\s+/).map(Number); }
  function range(values) { return { low: Math.min.apply(null, values), high: Math.max.apply(null, values) }; }
  root.Tideline = { numbers: numbers, range: range };
})(window);
