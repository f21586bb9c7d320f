/** Counted up with each change of a book that this page has made: whoever shows books asks again. */
class BookEdition {
  count = $state(0);
}

export const bookEdition = new BookEdition();
