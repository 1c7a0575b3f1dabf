package org.mnemex.publish.store;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import com.sun.net.httpserver.HttpServer;
import java.io.IOException;
import java.net.InetAddress;
import java.net.InetSocketAddress;
import java.net.URI;
import java.nio.charset.StandardCharsets;
import java.nio.file.Path;
import java.security.KeyStore;
import java.util.ArrayList;
import java.util.List;
import java.util.Properties;
import java.util.concurrent.Callable;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import java.util.concurrent.Future;
import java.util.concurrent.atomic.AtomicInteger;
import java.util.concurrent.atomic.AtomicReference;
import javax.net.ssl.TrustManagerFactory;
import org.gaul.s3proxy.BlobStores;
import org.gaul.s3proxy.S3Proxy;
import org.gaul.s3proxy.auth.AuthenticationType;
import org.gaul.s3proxy.blobstore.BlobStore;
import org.jspecify.annotations.Nullable;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.EnumSource;
import software.amazon.awssdk.services.s3.model.CreateBucketRequest;

/** What both kinds of stores must do; the S3 protocol is spoken with a real server. */
class StoreTest {
  private static final String KEY = "quillmere";
  private static final String SECRET = "not-a-secret-of-anybody";
  private static final AtomicInteger PREFIXES = new AtomicInteger();

  private static @Nullable S3Proxy server;

  @TempDir Path folder;

  enum Kind {
    FOLDER,
    S3
  }

  @BeforeAll
  static void startServer() throws Exception {
    BlobStore blobs = BlobStores.create("transient-nio2", new Properties());
    server =
        S3Proxy.builder()
            .blobStore(blobs)
            .awsAuthentication(AuthenticationType.AWS_V2_OR_V4, KEY, SECRET)
            .endpoint(URI.create("http://127.0.0.1:0"))
            .build();
    server.start();
    blobs.createContainer(CreateBucketRequest.builder().bucket("herbarium").build());
  }

  @AfterAll
  static void stopServer() throws Exception {
    server.stop();
  }

  private ObjectStore store(Kind kind) throws IOException {
    return kind == Kind.FOLDER
        ? new FolderStore(folder)
        : s3("herbarium", "test-" + PREFIXES.incrementAndGet() + "/", SECRET);
  }

  private static S3Store s3(String bucket, String prefix, String secret) {
    return new S3Store(
        new S3Store.Place(
            URI.create("http://127.0.0.1:" + server.getPort()),
            "garden",
            bucket,
            prefix,
            KEY,
            secret),
        null);
  }

  private static byte[] bytes(String text) {
    return text.getBytes(StandardCharsets.UTF_8);
  }

  @ParameterizedTest
  @EnumSource
  void objectsAreReadListedAndRemoved(Kind kind) throws IOException {
    try (ObjectStore store = store(kind)) {
      assertThat(store.get("files/1/fern")).isNull();
      assertThat(store.getIfOther("files/1/fern", "\"none\"")).isNull();

      store.put("files/1/fern", bytes("frond"));
      store.put("files/1/fern", bytes("frond"));
      store.put("files/2/moss", new byte[0]);
      store.put("other", bytes("x"));

      StoredObject fern = store.get("files/1/fern");
      assertThat(fern.content()).isEqualTo(bytes("frond"));
      assertThat(store.getIfOther("files/1/fern", fern.tag())).isNull();
      assertThat(store.names("files/")).containsExactlyInAnyOrder("files/1/fern", "files/2/moss");

      store.remove(List.of("files/1/fern", "files/1/gone"));
      assertThat(store.names("files/")).containsExactly("files/2/moss");
      assertThat(store.get("files/1/fern")).isNull();
    }
  }

  @ParameterizedTest
  @EnumSource
  void anObjectIsReplacedOnlyIfItIsTheKnownOne(Kind kind) throws IOException {
    try (ObjectStore store = store(kind)) {
      assertThatThrownBy(() -> store.replace("catalogue", bytes("a"), "\"unknown\""))
          .isInstanceOf(ReplacedException.class);
      String first = store.replace("catalogue", bytes("a"), null);
      assertThatThrownBy(() -> store.replace("catalogue", bytes("b"), null))
          .isInstanceOf(ReplacedException.class)
          .hasMessageContaining("'catalogue'");
      String second = store.replace("catalogue", bytes("b"), first);
      assertThatThrownBy(() -> store.replace("catalogue", bytes("c"), first))
          .isInstanceOf(ReplacedException.class);

      StoredObject now = store.getIfOther("catalogue", first);
      assertThat(now.content()).isEqualTo(bytes("b"));
      assertThat(now.tag()).isEqualTo(second);
    }
  }

  @ParameterizedTest
  @EnumSource
  void ofManyWhoReplaceAtOnceExactlyOneWins(Kind kind) throws Exception {
    try (ObjectStore store = store(kind);
        ExecutorService threads = Executors.newFixedThreadPool(8)) {
      @Nullable String tag = null;
      for (int round = 0; round < 10; round++) {
        // The server of this test compares tags first and writes then, so of the S3 protocol only
        // the writing of new objects can be tried.
        String name = kind == Kind.S3 ? "catalogue-" + round : "catalogue";
        tag = kind == Kind.S3 ? null : tag;
        List<Callable<@Nullable String>> all = new ArrayList<>();
        for (int i = 0; i < 8; i++) {
          byte[] mine = bytes(round + " of " + i);
          @Nullable String known = tag;
          all.add(
              () -> {
                try {
                  return store.replace(name, mine, known);
                } catch (ReplacedException e) {
                  return null;
                }
              });
        }
        List<String> won = new ArrayList<>();
        for (Future<@Nullable String> one : threads.invokeAll(all)) {
          if (one.get() != null) {
            won.add(one.get());
          }
        }
        assertThat(won).hasSize(1);
        assertThat(store.get(name).tag()).isEqualTo(won.getFirst());
        tag = won.getFirst();
      }
    }
  }

  /** The client sends again what seems to have failed, and is told that the object is there. */
  @Test
  void whatWasWrittenWithoutAnAnswerIsKnownToBeWritten() throws IOException {
    AtomicReference<byte[]> kept = new AtomicReference<>();
    HttpServer losing =
        HttpServer.create(new InetSocketAddress(InetAddress.getLoopbackAddress(), 0), 0);
    losing.createContext(
        "/",
        call -> {
          String body = new String(call.getRequestBody().readAllBytes(), StandardCharsets.UTF_8);
          // It comes in one chunk with a signature before and after it.
          byte[] sent = bytes(body.contains("fern") ? "fern" : "moss");
          boolean isWrite = call.getRequestMethod().equals("PUT");
          boolean isNew = isWrite && kept.compareAndSet(null, sent);
          byte[] answer = isWrite ? new byte[0] : kept.get();
          call.getResponseHeaders().set("ETag", "\"1\"");
          call.sendResponseHeaders(
              isNew ? 500 : isWrite ? 412 : 200, answer.length == 0 ? -1 : answer.length);
          call.getResponseBody().write(answer);
          call.close();
        });
    losing.start();
    URI address = URI.create("http://127.0.0.1:" + losing.getAddress().getPort());
    try (S3Store store =
        new S3Store(new S3Store.Place(address, "garden", "herbarium", "", KEY, SECRET), null)) {
      assertThat(store.replace("catalogue", bytes("fern"), null)).isEqualTo("\"1\"");
      assertThatThrownBy(() -> store.replace("catalogue", bytes("moss"), null))
          .isInstanceOf(ReplacedException.class);
    } finally {
      losing.stop(0);
    }
  }

  @Test
  void aServerWithACertificateOfAPrivateAuthorityIsTrustedByWhoKnowsIt() throws Exception {
    Path keys = folder.resolve("keys.p12");
    KeyStore known = keysOfThisMachine(keys);
    TrustManagerFactory trusted =
        TrustManagerFactory.getInstance(TrustManagerFactory.getDefaultAlgorithm());
    trusted.init(known);
    BlobStore blobs = BlobStores.create("transient-nio2", new Properties());
    blobs.createContainer(CreateBucketRequest.builder().bucket("herbarium").build());
    S3Proxy encrypted =
        S3Proxy.builder()
            .blobStore(blobs)
            .awsAuthentication(AuthenticationType.AWS_V2_OR_V4, KEY, SECRET)
            .secureEndpoint(URI.create("https://127.0.0.1:0"))
            .keyStore(keys.toString(), SECRET)
            .build();
    encrypted.start();
    S3Store.Place place =
        new S3Store.Place(
            URI.create("https://127.0.0.1:" + encrypted.getSecurePort()),
            "garden",
            "herbarium",
            "",
            KEY,
            SECRET);
    try (S3Store stranger = new S3Store(place, null);
        S3Store store = new S3Store(place, trusted.getTrustManagers())) {
      store.put("fern", bytes("frond"));
      assertThat(store.get("fern").content()).isEqualTo(bytes("frond"));
      assertThatThrownBy(() -> stranger.get("fern"))
          .isInstanceOf(IOException.class)
          .hasMessageContaining("certification path");
    } finally {
      encrypted.stop();
    }
  }

  /** A key of this machine with a certificate that it has signed itself. */
  private static KeyStore keysOfThisMachine(Path file) throws Exception {
    Process keytool =
        new ProcessBuilder(
                Path.of(System.getProperty("java.home"), "bin", "keytool").toString(),
                "-genkeypair",
                "-alias",
                "herbarium",
                "-keyalg",
                "EC",
                "-dname",
                "CN=herbarium",
                "-ext",
                "SAN=IP:127.0.0.1",
                "-keystore",
                file.toString(),
                "-storepass",
                SECRET)
            .redirectErrorStream(true)
            .start();
    String said = new String(keytool.getInputStream().readAllBytes(), StandardCharsets.UTF_8);
    assertThat(keytool.waitFor()).as(said).isZero();
    KeyStore known = KeyStore.getInstance(KeyStore.getDefaultType());
    known.load(null, null);
    known.setCertificateEntry(
        "herbarium",
        KeyStore.getInstance(file.toFile(), SECRET.toCharArray()).getCertificate("herbarium"));
    return known;
  }

  @Test
  void whatIsWrongWithAStoreIsSaid() throws IOException {
    try (ObjectStore wrongKey = s3("herbarium", "", "another-secret-of-nobody");
        ObjectStore noBucket = s3("attic", "", SECRET)) {
      assertThatThrownBy(() -> wrongKey.get("catalogue"))
          .isInstanceOf(IOException.class)
          .hasMessageContaining("'catalogue' cannot be read in the store s3://herbarium/")
          .hasMessageNotContaining("another-secret");
      assertThatThrownBy(() -> noBucket.get("catalogue"))
          .isInstanceOf(IOException.class)
          .hasMessageContaining("s3://attic/");
      assertThatThrownBy(() -> noBucket.replace("catalogue", bytes("a"), null))
          .isInstanceOf(IOException.class)
          .isNotInstanceOf(ReplacedException.class);
    }
    try (ObjectStore store = new FolderStore(folder)) {
      assertThatThrownBy(() -> store.put("../outside", bytes("x")))
          .isInstanceOf(IllegalArgumentException.class);
    }
  }
}
