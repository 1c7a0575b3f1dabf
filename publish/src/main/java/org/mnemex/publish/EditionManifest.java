package org.mnemex.publish;

import java.util.List;
import java.util.function.Predicate;
import org.jspecify.annotations.Nullable;
import org.mnemex.publish.file.PublishedFile;

/**
 * What an edition consists of at one commit: the object {@code editions/INDEX/NUMBER}, as JSON.
 *
 * @param format version of this form
 * @param builder who has written it
 * @param state the edition at that commit
 * @param written when it was written, ISO 8601, UTC
 * @param files the files of the commit; one of them is the engine's manifest
 */
public record EditionManifest(
    int format, BuilderTurn builder, State state, String written, List<PublishedFile> files) {
  /** The form that this version writes. */
  static final int FORMAT = 1;

  /** What the names of all manifests begin with. */
  static final String EDITIONS = "editions/";

  /** What the name of the engine's manifest begins with. */
  private static final String ENGINE_MANIFEST = "manifest-";

  /** The name of the list of records that are set aside. */
  public static final String SET_ASIDE = "set-aside.json";

  /**
   * An edition at a commit.
   *
   * @param edition which edition
   * @param trueAt the moment up to which it includes everything, ISO 8601, UTC; null if unknown
   * @param position the position of its source up to which it includes everything, which goes on
   *     when nothing changes in the files; null if unknown, or from an earlier version
   */
  public record State(EditionName edition, @Nullable String trueAt, @Nullable String position) {}

  /** The engine's manifest of the commit. */
  public PublishedFile commit() {
    return find(name -> name.startsWith(ENGINE_MANIFEST), ENGINE_MANIFEST);
  }

  /**
   * A file of the commit.
   *
   * @param name its name in the folder of the edition
   * @throws IllegalArgumentException if there is none
   */
  public PublishedFile file(String name) {
    return find(name::equals, name);
  }

  private PublishedFile find(Predicate<String> wanted, String name) {
    return files.stream()
        .filter(file -> wanted.test(file.name()))
        .findFirst()
        .orElseThrow(() -> new IllegalArgumentException("the manifest names no file " + name));
  }
}
