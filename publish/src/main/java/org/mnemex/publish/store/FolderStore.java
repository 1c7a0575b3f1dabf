package org.mnemex.publish.store;

import java.io.IOException;
import java.nio.ByteBuffer;
import java.nio.channels.FileChannel;
import java.nio.channels.FileLock;
import java.nio.file.Files;
import java.nio.file.NoSuchFileException;
import java.nio.file.Path;
import java.nio.file.StandardCopyOption;
import java.nio.file.StandardOpenOption;
import java.util.List;
import java.util.Objects;
import java.util.UUID;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/**
 * A store in a folder that all machines share. Its file system must move files atomically and know
 * locks that hold between the machines.
 */
public final class FolderStore implements ObjectStore {
  private static final String UNFINISHED = ".tmp";
  private static final String LOCK = "store.lock";

  private final Path root;

  /**
   * @param root the folder, which must be there by the time it is used: where a file system is not
   *     mounted, nothing must be written in its place
   */
  public FolderStore(Path root) {
    this.root = root.toAbsolutePath();
  }

  private void requireRoot() throws IOException {
    if (!Files.isDirectory(root)) {
      throw new IOException(
          "the folder of the store, %s, is not there; mount it, or make it".formatted(root));
    }
  }

  @Override
  public String place() {
    return root.toString();
  }

  @Override
  public @Nullable StoredObject get(String name) throws IOException {
    try {
      byte[] content = Files.readAllBytes(path(name));
      return new StoredObject(content, Sha256.of(content));
    } catch (NoSuchFileException e) {
      requireRoot();
      return null;
    }
  }

  @Override
  public @Nullable StoredObject getIfOther(String name, String tag) throws IOException {
    StoredObject found = get(name);
    return found == null || found.tag().equals(tag) ? null : found;
  }

  @Override
  public void put(String name, byte[] content) throws IOException {
    requireRoot();
    write(path(name), content);
  }

  @Override
  public String replace(String name, byte[] content, @Nullable String tag) throws IOException {
    requireRoot();
    // A process cannot lock a file twice, so its own threads wait here.
    synchronized (FolderStore.class) {
      try (FileChannel lockFile =
              FileChannel.open(
                  root.resolve(LOCK), StandardOpenOption.CREATE, StandardOpenOption.WRITE);
          FileLock _ = lockFile.lock()) {
        StoredObject found = get(name);
        if (!Objects.equals(found == null ? null : found.tag(), tag)) {
          throw new ReplacedException(place(), name);
        }
        write(path(name), content);
        return Sha256.of(content);
      }
    }
  }

  private static void write(Path path, byte[] content) throws IOException {
    Path folder = Objects.requireNonNull(path.getParent());
    Files.createDirectories(folder);
    Path unfinished = folder.resolve(UUID.randomUUID() + UNFINISHED);
    try {
      try (FileChannel channel =
          FileChannel.open(unfinished, StandardOpenOption.CREATE_NEW, StandardOpenOption.WRITE)) {
        ByteBuffer buffer = ByteBuffer.wrap(content);
        while (buffer.hasRemaining()) {
          channel.write(buffer);
        }
        channel.force(true);
      }
      Files.move(unfinished, path, StandardCopyOption.ATOMIC_MOVE);
    } finally {
      Files.deleteIfExists(unfinished);
    }
    try (FileChannel names = FileChannel.open(folder, StandardOpenOption.READ)) {
      names.force(true);
    }
  }

  @Override
  public List<String> names(String beginning) throws IOException {
    requireRoot();
    try (Stream<Path> all = Files.walk(root)) {
      return all.filter(Files::isRegularFile)
          .map(file -> root.relativize(file).toString().replace('\\', '/'))
          .filter(name -> name.startsWith(beginning))
          .filter(name -> !name.endsWith(UNFINISHED) && !name.equals(LOCK))
          .toList();
    }
  }

  @Override
  public void remove(List<String> names) throws IOException {
    for (String name : names) {
      Files.deleteIfExists(path(name));
    }
  }

  private Path path(String name) {
    Path path = root.resolve(name).normalize();
    if (!path.startsWith(root) || path.equals(root)) {
      throw new IllegalArgumentException("'" + name + "' is not the name of an object");
    }
    return path;
  }

  @Override
  public void close() {
    // Nothing is held.
  }
}
