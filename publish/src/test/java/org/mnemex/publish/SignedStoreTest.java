package org.mnemex.publish;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.security.Key;
import java.security.KeyPair;
import java.security.KeyPairGenerator;
import java.security.NoSuchAlgorithmException;
import java.time.Clock;
import java.time.Duration;
import java.util.Base64;
import java.util.List;
import java.util.Map;
import java.util.Random;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.mnemex.publish.file.Bandwidth;

/** Somebody else who writes into a store cannot make others answer with something else. */
class SignedStoreTest {
  private static final EditionName PLANTS = new EditionName("plants", 1);
  private static final EditionName BEDS = new EditionName("beds", 1);

  @TempDir Path temp;
  private FaultyStore store;
  private Signatures made;
  private Signatures checked;

  @BeforeEach
  void publish() throws Exception {
    store = new FaultyStore(new Random(1));
    KeyPair keys = keys();
    made = Signatures.madeWith(pem("PRIVATE KEY", keys.getPrivate()));
    checked = Signatures.checkedWith(pem("PUBLIC KEY", keys.getPublic()));
    try (Publisher builder = builder(made)) {
      for (EditionName edition : List.of(PLANTS, BEDS)) {
        Path file = Files.writeString(temp.resolve("manifest-1"), edition.toString());
        builder.publish(
            new EditionManifest.State(edition, null, null),
            Map.of("manifest-1", file),
            "[]".getBytes(StandardCharsets.UTF_8));
      }
      builder.offer(new Catalogue.Content(List.of(PLANTS, BEDS), "definitions"));
    }
  }

  private static KeyPair keys() throws NoSuchAlgorithmException {
    return KeyPairGenerator.getInstance("Ed25519").generateKeyPair();
  }

  private Path pem(String label, Key key) throws IOException {
    return Files.writeString(
        temp.resolve(label),
        "-----BEGIN %s-----\n%s\n-----END %s-----\n"
            .formatted(label, Base64.getMimeEncoder().encodeToString(key.getEncoded()), label));
  }

  private Publisher builder(Signatures signatures) throws IOException {
    return new Publisher(
        new SignedStore(store, signatures),
        "quillmere",
        Bandwidth.UNLIMITED,
        Duration.ofMinutes(10),
        Clock.systemUTC());
  }

  private Follower.Offer look(Signatures signatures) throws IOException {
    return new Follower(new SignedStore(store, signatures), temp.resolve("node")).look();
  }

  @Test
  void whatIsSignedIsRead() throws IOException {
    Follower.Offer offer = look(checked);
    assertThat(offer.content().service()).isEqualTo("definitions");
    assertThat(offer.editions()).hasSize(2);
    assertThat(look(made)).isEqualTo(offer);
    // Who does not ask for signatures reads it as well.
    assertThat(look(Signatures.none())).isEqualTo(offer);
    // The next run of the builder takes over.
    try (Publisher next = builder(made)) {
      assertThat(next.builder().turn()).isEqualTo(2);
    }
    assertThat(look(checked).editions()).hasSize(2);
  }

  @Test
  void noOtherByteIsBelieved() throws IOException {
    for (String name : List.of(Catalogue.OBJECT, PLANTS.object())) {
      byte[] signed = store.objects.get(name);
      for (int i = 0; i < signed.length; i++) {
        byte[] changed = signed.clone();
        changed[i] ^= 1;
        store.objects.put(name, changed);
        assertThatThrownBy(() -> look(checked))
            .as("byte %d of %s", i, name)
            .isInstanceOf(NotSignedException.class)
            .hasMessageContaining(name);
      }
      store.objects.put(name, signed);
    }
    assertThat(look(checked).editions()).hasSize(2);
  }

  @Test
  void oneObjectIsNotBelievedInThePlaceOfAnother() {
    store.objects.put(PLANTS.object(), store.objects.get(BEDS.object()));
    assertThatThrownBy(() -> look(checked)).isInstanceOf(NotSignedException.class);
  }

  @Test
  void nothingIsSignedThatSomebodyElseHasWritten() throws Exception {
    Signatures others = Signatures.madeWith(pem("PRIVATE KEY", keys().getPrivate()));
    Map<String, byte[]> before = Map.copyOf(store.objects);
    assertThatThrownBy(() -> builder(others))
        .isInstanceOf(NotSignedException.class)
        .hasMessageContaining("not signed with the key");
    assertThat(store.objects).isEqualTo(before);

    store.objects.clear();
    builder(Signatures.none()).close();
    Map<String, byte[]> unsigned = Map.copyOf(store.objects);
    for (Signatures signatures : List.of(made, checked)) {
      assertThatThrownBy(() -> look(signatures)).hasMessageContaining("is not signed");
    }
    assertThatThrownBy(() -> builder(made)).isInstanceOf(NotSignedException.class);
    assertThat(store.objects).isEqualTo(unsigned);
  }

  @Test
  void otherFilesAreNoKeys() throws Exception {
    KeyPair other = KeyPairGenerator.getInstance("X25519").generateKeyPair();
    Path secret = pem("PRIVATE KEY", other.getPrivate());
    Path known = pem("PUBLIC KEY", other.getPublic());
    assertThatThrownBy(() -> Signatures.madeWith(secret)).hasMessageContaining("no private key");
    assertThatThrownBy(() -> Signatures.checkedWith(known)).hasMessageContaining("no public key");
    assertThatThrownBy(() -> Signatures.checkedWith(secret))
        .hasMessageContaining("does not begin with -----BEGIN PUBLIC KEY-----");
  }
}
