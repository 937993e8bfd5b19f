// Before anything is drawn: a visitor who chose the night colours has them at once.
if (location.hash === '#night') document.documentElement.classList.add('night');
