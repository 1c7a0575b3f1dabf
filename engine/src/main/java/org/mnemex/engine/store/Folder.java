package org.mnemex.engine.store;

import java.io.Closeable;
import java.io.IOException;
import java.nio.ByteBuffer;
import java.nio.channels.FileChannel;
import java.nio.channels.FileLock;
import java.nio.channels.OverlappingFileLockException;
import java.nio.file.FileAlreadyExistsException;
import java.nio.file.FileSystemException;
import java.nio.file.Files;
import java.nio.file.NoSuchFileException;
import java.nio.file.Path;
import java.nio.file.StandardCopyOption;
import java.nio.file.StandardOpenOption;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;
import java.util.Set;
import java.util.function.Predicate;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.error.DamagedFileException;
import org.mnemex.engine.error.FolderInUseException;

/** One edition's folder, held by one writer at a time through a lock file. */
public final class Folder implements Closeable {
  private final Path path;
  private final FileChannel lockFile;
  private final FileLock lock;

  /**
   * Opens the folder, creating it if needed.
   *
   * @throws FolderInUseException if another writer holds it
   */
  public Folder(Path path) throws IOException {
    this.path = Files.createDirectories(path);
    this.lockFile =
        FileChannel.open(
            path.resolve("writer.lock"), StandardOpenOption.CREATE, StandardOpenOption.WRITE);
    FileLock taken;
    try {
      taken = lockFile.tryLock();
    } catch (OverlappingFileLockException e) {
      taken = null;
    }
    if (taken == null) {
      lockFile.close();
      throw new FolderInUseException(path);
    }
    this.lock = taken;
  }

  public Path path() {
    return path;
  }

  /** The file of a segment. */
  public Path segment(long id) {
    return segment(path, id);
  }

  /** The file of a segment in a folder that somebody else may hold. */
  public static Path segment(Path path, long id) {
    return path.resolve(segmentName(id));
  }

  /** The name of a segment's file. */
  public static String segmentName(long id) {
    return "seg-" + id + ".mnx";
  }

  /** The file of a segment's deletions at a generation. */
  public Path deletions(long id, long generation) {
    return deletions(path, id, generation);
  }

  /** The same in a folder that somebody else may hold. */
  public static Path deletions(Path path, long id, long generation) {
    return path.resolve(deletionsName(id, generation));
  }

  /** The name of the file of a segment's deletions at a generation. */
  public static String deletionsName(long id, long generation) {
    return "seg-" + id + "." + generation + ".live";
  }

  /**
   * The names of a segment's files.
   *
   * @param deletions generation of its deletions, 0 if nothing is deleted
   */
  public List<String> names(long id, long deletions) {
    String segment = segmentName(id);
    return deletions == 0 ? List.of(segment) : List.of(segment, deletionsName(id, deletions));
  }

  /**
   * Puts hard links to the files of the last commit into another folder, which is created. Files
   * are never modified, so what they hold stays as it is now, whatever is committed and removed
   * afterwards. Where a file system has no hard links, files are copied.
   *
   * @throws DamagedFileException if no manifest can be read
   */
  public void link(Path to) throws IOException {
    Files.createDirectories(to);
    List<Manifest> valid = manifests().valid();
    if (valid.isEmpty()) {
      return;
    }
    Manifest newest = valid.getFirst();
    for (Manifest.SegmentEntry segment : newest.segments()) {
      for (String name : names(segment.id(), segment.deletions())) {
        linkOrCopy(path.resolve(name), to.resolve(name));
      }
    }
    String manifest = Manifest.fileName(newest.generation());
    linkOrCopy(path.resolve(manifest), to.resolve(manifest));
  }

  private static void linkOrCopy(Path from, Path to) throws IOException {
    try {
      Files.createLink(to, from);
    } catch (NoSuchFileException | FileAlreadyExistsException e) {
      throw e;
    } catch (FileSystemException | UnsupportedOperationException e) {
      Files.copy(from, to);
    }
  }

  /**
   * What manifests there are.
   *
   * @param valid those that can be read, highest generation first
   * @param damaged why others cannot
   */
  public record Manifests(List<Manifest> valid, List<String> damaged) {}

  /**
   * Reads the manifests; a damaged one does not keep those before it from being used.
   *
   * @throws DamagedFileException if there are some, and none can be read
   * @throws org.mnemex.engine.error.NewerFormatException if a newer version of this program wrote
   *     one
   */
  public Manifests manifests() throws IOException {
    return manifests(path);
  }

  /** The same of a folder that somebody else may hold. */
  public static Manifests manifests(Path path) throws IOException {
    List<Path> files = list(path, name -> name.matches(Manifest.PREFIX + "\\d+"));
    List<Manifest> valid = new ArrayList<>();
    List<String> why = new ArrayList<>();
    DamagedFileException damaged = null;
    for (Path file : files) {
      try {
        valid.add(Manifest.read(file));
      } catch (DamagedFileException e) {
        damaged = e;
        why.add(String.valueOf(e.getMessage()));
      }
    }
    if (valid.isEmpty() && damaged != null) {
      throw damaged;
    }
    valid.sort(Comparator.comparingLong(Manifest::generation).reversed());
    return new Manifests(List.copyOf(valid), List.copyOf(why));
  }

  /** Writes {@code content} under {@code name} so that it is there wholly or not at all. */
  public void writeAtomically(String name, byte[] content) throws IOException {
    Path temporary = path.resolve(name + ".tmp");
    try (FileChannel channel =
        FileChannel.open(
            temporary,
            StandardOpenOption.CREATE,
            StandardOpenOption.WRITE,
            StandardOpenOption.TRUNCATE_EXISTING)) {
      ByteBuffer buffer = ByteBuffer.wrap(content);
      while (buffer.hasRemaining()) {
        channel.write(buffer);
      }
      channel.force(true);
    }
    Files.move(temporary, path.resolve(name), StandardCopyOption.ATOMIC_MOVE);
    syncNames();
  }

  /** Forces a file's content to the disk. */
  public void syncFile(Path file) throws IOException {
    try (FileChannel channel = FileChannel.open(file, StandardOpenOption.WRITE)) {
      channel.force(true);
    }
  }

  /** Forces the folder's list of names to the disk. */
  public void syncNames() throws IOException {
    try (FileChannel channel = FileChannel.open(path, StandardOpenOption.READ)) {
      channel.force(true);
    }
  }

  /**
   * Removes every data file whose name is not in {@code keep}, except those of segments that are
   * being written.
   *
   * @param writing the numbers of these segments
   */
  public void removeAllBut(Set<String> keep, Set<Long> writing) throws IOException {
    for (Path file :
        list(
            path,
            name ->
                !keep.contains(name)
                    && writing.stream().noneMatch(id -> name.startsWith("seg-" + id + "."))
                    && (name.startsWith("seg-")
                        || name.startsWith(Manifest.PREFIX)
                        || name.endsWith(".tmp")))) {
      Files.deleteIfExists(file);
    }
  }

  private static List<Path> list(Path path, Predicate<String> wanted) throws IOException {
    try (Stream<Path> files = Files.list(path)) {
      return files.filter(file -> wanted.test(name(file))).toList();
    }
  }

  private static String name(Path file) {
    @Nullable Path name = file.getFileName();
    return name == null ? "" : name.toString();
  }

  @Override
  public void close() throws IOException {
    lock.release();
    lockFile.close();
  }
}
