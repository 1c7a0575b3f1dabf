package org.mnemex.service.backup;

import java.util.List;

/**
 * What a backup consists of. Written to {@code backup.json} beside its files, as the last one.
 *
 * @param format version of this form
 * @param id its name, made of the moment
 * @param taken the moment, ISO 8601, UTC
 * @param installation identifies the installation, as databases know it
 * @param recordsVersion the version of the tables of our records
 * @param files all files, by path
 */
public record BackupContent(
    int format,
    String id,
    String taken,
    String installation,
    String recordsVersion,
    List<File> files) {
  /** The form that this version writes. */
  static final int FORMAT = 1;

  /**
   * A file.
   *
   * @param path relative to the data folder, with slashes
   * @param bytes length in bytes
   * @param sha256 its SHA-256 (FIPS 180-4) in hexadecimal
   */
  public record File(String path, long bytes, String sha256) {}

  /** The bytes of all files. */
  long bytes() {
    return files.stream().mapToLong(File::bytes).sum();
  }
}
