window.Sorrel = {
  page: document.body.className,
  ready: function (run) {
    if (document.readyState === 'loading') document.addEventListener('DOMContentLoaded', run);
    else run();
  }
};
window.addEventListener('scroll', function () {
  document.body.classList.toggle('is-scrolled', window.scrollY > 40);
});
