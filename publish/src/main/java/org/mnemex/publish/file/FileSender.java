package org.mnemex.publish.file;

import java.io.EOFException;
import java.io.IOException;
import java.nio.ByteBuffer;
import java.nio.channels.FileChannel;
import java.nio.file.Path;
import java.nio.file.StandardOpenOption;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.atomic.AtomicReferenceArray;
import java.util.stream.IntStream;
import org.mnemex.publish.file.PublishedFile.Part;
import org.mnemex.publish.store.ObjectStore;
import org.mnemex.publish.store.Sha256;

/**
 * Sends files to a store, in parts, a few at a time. A part that is there is not sent again, so
 * what was interrupted goes on where it was. Files are never modified: one of the same path and
 * length is taken for the same.
 *
 * <p>One thread at a time may call it.
 */
public final class FileSender implements AutoCloseable {
  /** The usual length of a part: a few fit into memory, and a large edition has some hundred. */
  public static final int PART_BYTES = 16 << 20;

  private final ObjectStore store;
  private final long turn;
  private final int partBytes;
  private final Bandwidth bandwidth;
  private final Together threads = new Together("publish-");
  private final Map<String, Part> there = new ConcurrentHashMap<>();
  private final Map<String, PublishedFile> known = new HashMap<>();

  /**
   * @param turn which turn of building this is
   * @param partBytes the length of all parts of a file but the last
   */
  public FileSender(ObjectStore store, long turn, int partBytes, Bandwidth bandwidth) {
    this.store = store;
    this.turn = turn;
    this.partBytes = partBytes;
    this.bandwidth = bandwidth;
  }

  /** Learns of parts that a manifest names, which nobody removes as long as it does. */
  public void learn(List<PublishedFile> files) {
    files.forEach(file -> file.parts().forEach(part -> there.put(part.sha256(), part)));
  }

  /** Forgets all parts but some: others may be removed now, and have to be sent again then. */
  public void keepOnly(Set<Part> parts) {
    there.values().retainAll(parts);
    known.values().removeIf(file -> !parts.containsAll(file.parts()));
  }

  /**
   * Sends the files that are not there yet.
   *
   * @param identity distinguishes this folder from others whose files have the same names
   * @param files the files, by their names
   * @return all of them, as a manifest names them
   * @throws IOException if a file cannot be read, or the store cannot be reached
   */
  public List<PublishedFile> send(String identity, Map<String, Path> files) throws IOException {
    List<Sending> each = new ArrayList<>();
    List<Together.Transfer> transfers = new ArrayList<>();
    for (Map.Entry<String, Path> file : files.entrySet()) {
      Sending one = new Sending(identity, file.getKey(), file.getValue());
      each.add(one);
      if (!known.containsKey(one.key)) {
        IntStream.range(0, one.parts.length()).forEach(i -> transfers.add(() -> one.send(i)));
      }
    }
    threads.run(transfers);
    List<PublishedFile> published = new ArrayList<>();
    Set<String> used = new HashSet<>();
    for (Sending one : each) {
      used.add(one.key);
      published.add(known.computeIfAbsent(one.key, key -> one.sent()));
    }
    known.keySet().removeIf(key -> key.startsWith(identity + "/") && !used.contains(key));
    return published;
  }

  /** Sends a content that is no file; it has one part. */
  public PublishedFile send(String name, byte[] content) throws IOException {
    return new PublishedFile(name, List.of(part(content)));
  }

  private Part part(byte[] content) throws IOException {
    String hash = Sha256.of(content);
    Part known = there.get(hash);
    if (known != null) {
      return known;
    }
    Part part = new Part(turn, hash, content.length);
    bandwidth.await(content.length);
    store.put(part.object(), content);
    there.put(hash, part);
    return part;
  }

  /** A file on its way. */
  private final class Sending {
    final String key;
    final AtomicReferenceArray<Part> parts;
    private final String name;
    private final Path path;
    private final long bytes;

    Sending(String identity, String name, Path path) throws IOException {
      this.name = name;
      this.path = path;
      try (FileChannel channel = FileChannel.open(path, StandardOpenOption.READ)) {
        this.bytes = channel.size();
      }
      this.key = "%s/%s/%d".formatted(identity, name, bytes);
      this.parts = new AtomicReferenceArray<>(Math.toIntExact((bytes + partBytes - 1) / partBytes));
    }

    void send(int number) throws IOException {
      long start = (long) number * partBytes;
      ByteBuffer buffer = ByteBuffer.allocate((int) Math.min(partBytes, bytes - start));
      try (FileChannel channel = FileChannel.open(path, StandardOpenOption.READ)) {
        while (buffer.hasRemaining()) {
          if (channel.read(buffer, start + buffer.position()) < 0) {
            throw new EOFException(path + " was cut while it was sent");
          }
        }
      }
      parts.set(number, part(buffer.array()));
    }

    PublishedFile sent() {
      return new PublishedFile(
          name, IntStream.range(0, parts.length()).mapToObj(parts::get).toList());
    }
  }

  @Override
  public void close() {
    threads.close();
  }
}
