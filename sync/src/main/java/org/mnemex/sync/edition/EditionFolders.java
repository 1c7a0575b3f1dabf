package org.mnemex.sync.edition;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.List;
import java.util.stream.Stream;

/** The folders of an index's editions. */
final class EditionFolders {
  private final Path root;

  EditionFolders(Path root) {
    this.root = root;
  }

  /** The folder of an edition, which need not exist. */
  Path of(int number) {
    return root.resolve("edition-" + number);
  }

  /** Removes all folders except those of some editions. */
  void keepOnly(List<Edition> wanted) throws IOException {
    if (!Files.isDirectory(root)) {
      return;
    }
    List<Path> kept = wanted.stream().map(edition -> of(edition.number())).toList();
    try (Stream<Path> folders = Files.list(root)) {
      folders.filter(folder -> !kept.contains(folder)).toList().forEach(Edition::deleteFolder);
    }
  }

  void delete(int number) {
    Edition.deleteFolder(of(number));
  }

  void deleteAll() {
    Edition.deleteFolder(root);
  }
}
