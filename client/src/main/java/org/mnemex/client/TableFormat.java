package org.mnemex.client;

/** A form of a list for other programs. */
public enum TableFormat {
  /** RFC 4180, with the names of the columns in the first line. */
  CSV("text/csv"),
  /** A JSON object a line. */
  NDJSON("application/x-ndjson");

  private final String mediaType;

  TableFormat(String mediaType) {
    this.mediaType = mediaType;
  }

  String mediaType() {
    return mediaType;
  }
}
