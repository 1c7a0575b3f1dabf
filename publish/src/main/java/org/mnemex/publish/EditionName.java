package org.mnemex.publish;

/**
 * Which edition.
 *
 * @param index the name under which the index is stored, which it keeps when it is renamed
 * @param number the number of the edition
 */
public record EditionName(String index, int number) {
  /** The name of the object with its manifest. */
  public String object() {
    return EditionManifest.EDITIONS + index + "/" + number;
  }

  @Override
  public String toString() {
    return "edition %d of index '%s'".formatted(number, index);
  }
}
