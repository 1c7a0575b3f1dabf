package org.mnemex.engine.facet;

/** Order of values in a result. */
public enum FacetOrder {
  /** Most frequent first; equal ones by value. */
  COUNT,
  /** By value: numbers and dates ascending, texts alphabetically without regard to case. */
  VALUE,
  /** By value, comparing numbers within texts as numbers: {@code 9 cm} before {@code 10 cm}. */
  NATURAL,
  /** In the order of the request; unlisted values follow, most frequent first. */
  GIVEN
}
