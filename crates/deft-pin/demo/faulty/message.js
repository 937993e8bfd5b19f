var form = document.querySelector('.contact-form');
form.addEventListener('submit', function () {
  var visits = window.visits;
  if (visits) visits.push({ event: 'message', name: form.elements.name.value });
});
