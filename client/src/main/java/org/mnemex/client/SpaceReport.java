package org.mnemex.client;

import java.util.List;
import java.util.Map;

/**
 * What the live edition of an index takes on the disk.
 *
 * @param edition number of the edition
 * @param documents number of documents
 * @param deleted how many more are deleted, but still in its files
 * @param bytes size of its files, in bytes
 * @param parts bytes by what they are for, such as postings
 * @param fields the fields, the largest first
 * @param savings the two most effective ways to save space; fewer if there are none
 */
public record SpaceReport(
    int edition,
    long documents,
    long deleted,
    long bytes,
    Map<String, Long> parts,
    List<FieldSpace> fields,
    List<Saving> savings) {
  /**
   * A field, without what is stored of it by document.
   *
   * @param name its name
   * @param terms how many terms and distinct values it has
   * @param bytes all its bytes
   * @param parts its bytes by what they are for
   */
  public record FieldSpace(String name, long terms, long bytes, Map<String, Long> parts) {}

  /**
   * A way to save space.
   *
   * @param what what is dispensable, and why
   * @param bytes about how many bytes it takes
   * @param how what to do
   */
  public record Saving(String what, long bytes, String how) {}
}
