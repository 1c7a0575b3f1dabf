package org.mnemex.publish.file;

import java.io.IOException;
import java.nio.ByteBuffer;
import java.nio.channels.FileChannel;
import java.nio.file.Files;
import java.nio.file.NoSuchFileException;
import java.nio.file.Path;
import java.nio.file.StandardCopyOption;
import java.nio.file.StandardOpenOption;
import java.nio.file.attribute.FileTime;
import java.time.Clock;
import java.time.Duration;
import java.util.ArrayList;
import java.util.Collection;
import java.util.Comparator;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Set;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import org.mnemex.publish.file.PublishedFile.Part;
import org.mnemex.publish.store.ObjectStore;
import org.mnemex.publish.store.Sha256;
import org.mnemex.publish.store.StoredObject;

/**
 * The files of a store that this machine has fetched, by their contents: a file that two commits or
 * editions share is there once, and whatever is there is right.
 *
 * <p>One thread at a time may call it.
 */
public final class FilePool implements AutoCloseable {
  private static final String UNFINISHED = ".part";

  /** An edition that is returned to soon need not be fetched again. */
  private static final Duration KEPT = Duration.ofMinutes(10);

  private final Path folder;
  private final ObjectStore store;
  private final long limitBytes;
  private final Bandwidth bandwidth;
  private final Clock clock;
  private final Together threads = new Together("fetch-");

  /**
   * @param folder where the files are; made if it is not there
   * @param limitBytes how many bytes may be kept
   */
  public FilePool(Path folder, ObjectStore store, long limitBytes, Bandwidth bandwidth, Clock clock)
      throws IOException {
    this.folder = Files.createDirectories(folder);
    this.store = store;
    this.limitBytes = limitBytes;
    this.bandwidth = bandwidth;
    this.clock = clock;
  }

  /** Where a file is, or would be. */
  public Path path(PublishedFile file) {
    return folder.resolve(file.content());
  }

  /** Whether all of some files are here. */
  public boolean hasAll(Collection<PublishedFile> files) {
    return files.stream().allMatch(file -> Files.exists(path(file)));
  }

  /** Removes those files that are not what they were when they were fetched. */
  public void removeDamaged(Collection<PublishedFile> files) throws IOException {
    for (PublishedFile file : files) {
      if (!isWhole(file)) {
        Files.deleteIfExists(path(file));
      }
    }
  }

  private boolean isWhole(PublishedFile file) throws IOException {
    try (FileChannel channel = FileChannel.open(path(file), StandardOpenOption.READ)) {
      long start = 0;
      for (Part part : file.parts()) {
        if (!isThere(channel, part, start)) {
          return false;
        }
        start += part.bytes();
      }
      return channel.size() == start;
    } catch (NoSuchFileException e) {
      return false;
    }
  }

  /** How many bytes are kept. */
  public long bytes() throws IOException {
    long bytes = 0;
    for (Path file : files()) {
      bytes += Files.size(file);
    }
    return bytes;
  }

  /**
   * Fetches the files that are missing. Those that nobody has needed for ten minutes go, and if
   * there is no room, those that have not been needed for the longest time.
   *
   * @param wanted the files that are needed from now on
   * @param used the files that are needed besides, as long as the others are not all there
   * @throws PoolTooSmallException if they do not fit
   * @throws IOException if the store cannot be reached, or has changed a part; what was fetched is
   *     kept, and the next call goes on with the rest
   */
  public void fetch(Collection<PublishedFile> wanted, Collection<PublishedFile> used)
      throws IOException {
    Map<String, PublishedFile> missing = new LinkedHashMap<>();
    FileTime now = FileTime.from(clock.instant());
    for (PublishedFile file : wanted) {
      Path path = path(file);
      if (Files.exists(path)) {
        Files.setLastModifiedTime(path, now);
      } else {
        missing.put(file.content(), file);
      }
    }
    if (missing.isEmpty()) {
      return;
    }
    makeRoom(wanted, used, missing);
    List<Together.Transfer> transfers = new ArrayList<>();
    for (PublishedFile file : missing.values()) {
      Path unfinished = unfinished(file);
      if (file.parts().isEmpty()) {
        Files.write(unfinished, new byte[0]);
      }
      long start = 0;
      for (Part part : file.parts()) {
        long at = start;
        transfers.add(() -> fetch(unfinished, part, at));
        start += part.bytes();
      }
    }
    threads.run(transfers);
    for (PublishedFile file : missing.values()) {
      Files.setLastModifiedTime(unfinished(file), now);
      Files.move(unfinished(file), path(file), StandardCopyOption.ATOMIC_MOVE);
    }
  }

  private Path unfinished(PublishedFile file) {
    return folder.resolve(file.content() + UNFINISHED);
  }

  private void fetch(Path to, Part part, long at) throws IOException {
    try (FileChannel channel =
        FileChannel.open(
            to, StandardOpenOption.CREATE, StandardOpenOption.READ, StandardOpenOption.WRITE)) {
      if (isThere(channel, part, at)) {
        return;
      }
      bandwidth.await(part.bytes());
      StoredObject object = store.get(part.object());
      if (object == null) {
        throw new IOException(
            "'%s' is no longer in the store %s".formatted(part.object(), store.place()));
      }
      if (!Sha256.of(object.content()).equals(part.sha256())) {
        throw new IOException(
            "'%s' in the store %s has changed: its bytes do not have the checksum in its name"
                .formatted(part.object(), store.place()));
      }
      ByteBuffer buffer = ByteBuffer.wrap(object.content());
      while (buffer.hasRemaining()) {
        channel.write(buffer, at + buffer.position());
      }
      // What is moved into place must be there after a power failure, too.
      channel.force(true);
    }
  }

  /** Whether a part was fetched before a failure. */
  private static boolean isThere(FileChannel channel, Part part, long at) throws IOException {
    if (channel.size() < at + part.bytes()) {
      return false;
    }
    ByteBuffer buffer = ByteBuffer.allocate(part.bytes());
    while (buffer.hasRemaining() && channel.read(buffer, at + buffer.position()) >= 0) {
      // Reads on.
    }
    return !buffer.hasRemaining() && Sha256.of(buffer.array()).equals(part.sha256());
  }

  private void makeRoom(
      Collection<PublishedFile> wanted,
      Collection<PublishedFile> used,
      Map<String, PublishedFile> missing)
      throws IOException {
    long needed = missing.values().stream().mapToLong(PublishedFile::bytes).sum();
    Set<String> pinned =
        Stream.concat(wanted.stream(), used.stream())
            .map(PublishedFile::content)
            .collect(Collectors.toCollection(HashSet::new));
    missing.keySet().forEach(content -> pinned.add(content + UNFINISHED));
    List<Path> oldestFirst = new ArrayList<>(files());
    Map<Path, FileTime> times = new LinkedHashMap<>();
    long kept = 0;
    for (Path file : oldestFirst) {
      times.put(file, Files.getLastModifiedTime(file));
      kept += file.toString().endsWith(UNFINISHED) ? 0 : Files.size(file);
    }
    oldestFirst.sort(Comparator.comparing(times::get));
    FileTime old = FileTime.from(clock.instant().minus(KEPT));
    for (Path file : oldestFirst) {
      boolean mustGo =
          kept + needed > limitBytes || Objects.requireNonNull(times.get(file)).compareTo(old) < 0;
      if (mustGo && !pinned.contains(String.valueOf(file.getFileName()))) {
        kept -= file.toString().endsWith(UNFINISHED) ? 0 : Files.size(file);
        Files.delete(file);
      }
    }
    if (kept + needed > limitBytes) {
      throw new PoolTooSmallException(folder, limitBytes, kept + needed);
    }
  }

  private List<Path> files() throws IOException {
    try (Stream<Path> all = Files.list(folder)) {
      return all.toList();
    }
  }

  @Override
  public void close() {
    threads.close();
  }
}
