package org.mnemex.publish.file;

import java.nio.charset.StandardCharsets;
import java.util.List;
import java.util.regex.Pattern;
import java.util.stream.Collectors;
import org.mnemex.publish.store.Sha256;

/**
 * A file whose parts are objects of a store.
 *
 * @param name its name in the folder of the edition
 * @param parts its bytes in order; none for an empty file
 */
public record PublishedFile(String name, List<Part> parts) {
  /**
   * A part of a file.
   *
   * @param turn the turn of the builder that sent it, see {@link #object}
   * @param sha256 SHA-256 (FIPS 180-4) of its bytes, in hexadecimal
   * @param bytes how many bytes it has
   */
  public record Part(long turn, String sha256, int bytes) {
    private static final Pattern HASH = Pattern.compile("[0-9a-f]{64}");
    private static final int MAX_BYTES = 64 << 20;

    /**
     * Refuses what no builder writes: a part has a place in memory, and its hash is the name of a
     * file.
     *
     * @throws IllegalArgumentException if it is not valid
     */
    public Part {
      if (!HASH.matcher(sha256).matches() || bytes < 0 || bytes > MAX_BYTES) {
        throw new IllegalArgumentException(
            "there is no part of %,d bytes with the checksum '%s'".formatted(bytes, sha256));
      }
    }

    /**
     * The name of the object. With the turn in it, a builder that has been superseded cannot remove
     * what its successor sends.
     */
    public String object() {
      return FILES + turn + "/" + sha256;
    }
  }

  /** What the names of all parts begin with. */
  public static final String FILES = "files/";

  /** Length in bytes. */
  public long bytes() {
    return parts.stream().mapToLong(Part::bytes).sum();
  }

  /** Says what the file contains, whatever its name is: a SHA-256 in hexadecimal. */
  public String content() {
    return parts.size() == 1
        ? parts.getFirst().sha256()
        : Sha256.of(
            parts.stream()
                .map(Part::sha256)
                .collect(Collectors.joining("\n"))
                .getBytes(StandardCharsets.US_ASCII));
  }
}
