package org.mnemex.client;

import java.nio.file.Path;
import java.time.Duration;
import javax.net.ssl.SSLContext;
import org.jspecify.annotations.Nullable;

/**
 * How a client calls a service. Made with {@link #usual} and changed step by step:
 *
 * <pre>{@code
 * new MnemexClient(uri, ClientOptions.usual().key(key).timeout(Duration.ofSeconds(2)))
 * }</pre>
 *
 * @param author who asks, recorded with changes by a service without keys; null for unknown
 * @param key a key or token, sent with every call; null for none
 * @param connectTimeout the longest wait for a connection
 * @param timeout the longest wait for an answer
 * @param retries how often a search or a call that only reads is tried again after 429 and 503
 * @param longestWait the longest pause before another try; if the service asks for more, the
 *     refusal stands
 * @param tls whom to trust, and what to show, in encrypted connections; null for what Java does
 */
public record ClientOptions(
    @Nullable String author,
    @Nullable String key,
    Duration connectTimeout,
    Duration timeout,
    int retries,
    Duration longestWait,
    @Nullable SSLContext tls) {
  private static final Duration CONNECT_TIMEOUT = Duration.ofSeconds(5);
  private static final Duration TIMEOUT = Duration.ofSeconds(60);
  private static final Duration LONGEST_WAIT = Duration.ofSeconds(5);

  public ClientOptions {
    if (retries < 0) {
      throw new IllegalArgumentException("retries count from 0");
    }
  }

  /** Without author and key, within a minute, without another try. */
  public static ClientOptions usual() {
    return new ClientOptions(null, null, CONNECT_TIMEOUT, TIMEOUT, 0, LONGEST_WAIT, null);
  }

  /** With an author; null for unknown. */
  public ClientOptions author(@Nullable String who) {
    return new ClientOptions(who, key, connectTimeout, timeout, retries, longestWait, tls);
  }

  /** With a key or token; null for none. */
  public ClientOptions key(@Nullable String secret) {
    return new ClientOptions(author, secret, connectTimeout, timeout, retries, longestWait, tls);
  }

  /** With another longest wait for an answer. */
  public ClientOptions timeout(Duration longest) {
    return new ClientOptions(author, key, connectTimeout, longest, retries, longestWait, tls);
  }

  /** With more tries after 429 and 503, and the longest pause before each. */
  public ClientOptions retries(int times, Duration longest) {
    return new ClientOptions(author, key, connectTimeout, timeout, times, longest, tls);
  }

  /** With encrypted connections of another kind, such as to a service with a private authority. */
  public ClientOptions tls(@Nullable SSLContext context) {
    return new ClientOptions(author, key, connectTimeout, timeout, retries, longestWait, context);
  }

  /**
   * With encrypted connections to services whose certificates are from authorities in a file, and
   * from no others.
   *
   * @param file certificates in PEM (RFC 7468)
   * @throws IllegalArgumentException if it has none, or cannot be read
   */
  public ClientOptions authorities(Path file) {
    return tls(Authorities.read(file));
  }

  /** Without the key, which does not belong into logs. */
  @Override
  public String toString() {
    return "ClientOptions[author=%s, key=%s, timeout=%s, retries=%s]"
        .formatted(author, key == null ? "none" : "given", timeout, retries);
  }
}
