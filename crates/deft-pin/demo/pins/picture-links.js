root.querySelectorAll('.picture').forEach((picture, number) => {
  const link = document.createElement('a');
  link.href = values.places[number];
  link.textContent = 'See more';
  picture.append(link);
});
