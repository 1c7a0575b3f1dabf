package org.mnemex.engine.facet;

/** Order of values in a result. */
public enum FacetOrder {
  /** Most frequent first; equal ones by value. */
  COUNT,
  /** By value: numbers and dates ascending, texts alphabetically without regard to case. */
  VALUE,
  /** By value, with numbers within texts taken as numbers: {@code 9 cm} before {@code 10 cm}. */
  NATURAL,
  /** As the request lists them; what it does not list comes behind, most frequent first. */
  GIVEN
}
