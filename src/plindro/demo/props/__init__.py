"""One module a prop: ``model()`` gives its shapes, ``paints()`` its texture sets, ``FAULT`` what is wrong with it."""
