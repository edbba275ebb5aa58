// The page of what is printed prints itself, once its pictures are there.
await Promise.all([...document.images].map(picture => picture.decode()))
window.print()
