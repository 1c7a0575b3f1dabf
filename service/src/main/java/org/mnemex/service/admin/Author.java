package org.mnemex.service.admin;

/**
 * Who asks for a change, as a caller without a key says in the header {@code From} (RFC 9110,
 * 10.1.2).
 */
final class Author {
  private static final int LONGEST = 200;

  private Author() {}

  /** The name that is recorded. */
  static String of(String header) {
    String name = header.strip();
    return name.length() <= LONGEST ? name : name.substring(0, LONGEST);
  }
}
