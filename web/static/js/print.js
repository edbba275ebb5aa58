await Promise.all([...document.images].map(picture=>picture.decode()));window.print();
