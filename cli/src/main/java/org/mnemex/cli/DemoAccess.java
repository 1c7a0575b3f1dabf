package org.mnemex.cli;

import com.nimbusds.jose.JOSEException;
import com.nimbusds.jose.JWSAlgorithm;
import com.nimbusds.jose.JWSHeader;
import com.nimbusds.jose.crypto.MACSigner;
import com.nimbusds.jwt.JWTClaimsSet;
import com.nimbusds.jwt.SignedJWT;
import java.io.IOException;
import java.net.URI;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.attribute.PosixFilePermissions;
import java.security.SecureRandom;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Base64;
import java.util.Date;
import java.util.List;
import org.mnemex.client.KeyRequest;
import org.mnemex.client.MnemexClient;

/**
 * Keys of a demo that shows them: one that may do everything, one for a frontend, and a token that
 * a backend would sign for one of its users.
 *
 * @param adminKey text of the key that may do everything
 * @param keyFile the file with that key
 * @param secretFile the file with the secret of tokens
 */
record DemoAccess(String adminKey, Path keyFile, Path secretFile) {
  private static final String LETTERS = "abcdefghijkmnpqrstuvwxyz23456789";
  private static final int SECRET_BYTES = 32;
  private static final int ID_LENGTH = 8;
  private static final String FRONTEND = "demo frontend";
  private static final String NODES = "demo search nodes";
  private static final Duration VALID = Duration.ofHours(1);

  /** The keys in a folder, made if they are not there. */
  static DemoAccess in(Path folder) throws IOException {
    Files.createDirectories(folder);
    Path keyFile = folder.resolve("demo-key");
    Path secretFile = folder.resolve("token-secret");
    SecureRandom random = new SecureRandom();
    if (!Files.exists(keyFile)) {
      StringBuilder id = new StringBuilder();
      for (int i = 0; i < ID_LENGTH; i++) {
        id.append(LETTERS.charAt(random.nextInt(LETTERS.length())));
      }
      write(keyFile, "mnemex_" + id + "_" + secret(random));
    }
    if (!Files.exists(secretFile)) {
      write(secretFile, secret(random));
    }
    return new DemoAccess(Files.readString(keyFile).strip(), keyFile, secretFile);
  }

  private static String secret(SecureRandom random) {
    byte[] bytes = new byte[SECRET_BYTES];
    random.nextBytes(bytes);
    return Base64.getUrlEncoder().withoutPadding().encodeToString(bytes);
  }

  /** Readable by its owner only, from the beginning. */
  private static void write(Path file, String text) throws IOException {
    Files.createFile(
        file, PosixFilePermissions.asFileAttribute(PosixFilePermissions.fromString("rw-------")));
    Files.writeString(file, text + "\n");
  }

  /** Settings of a service with these keys. */
  List<String> settings() {
    return new ArrayList<>(
        List.of(
            "--mnemex.keys=true",
            "--mnemex.first-key-file=" + keyFile.toAbsolutePath(),
            "--mnemex.tokens.secret-file=" + secretFile.toAbsolutePath()));
  }

  /** What to try, with a new key for a frontend and a new token. */
  String explained(MnemexClient client, URI url) throws IOException {
    revoke(client, FRONTEND);
    String frontend =
        client.access().create(KeyRequest.search(FRONTEND, List.of("plant-search"), null)).secret();
    return """

        This service has keys.

          Sign in    %1$s/   with %2$s   (also in %3$s)
          Commands   export MNEMEX_KEY=$(cat %3$s)
          Frontend   curl -H 'Authorization: Bearer %4$s' '%1$s/search/plant-search?q=fern'
          A tenant   its token is valid for an hour, and shows one family only:
                     curl -H 'Authorization: Bearer %5$s' '%1$s/search/plant-search?q=fern'
          Who did it ./mnemex activity
        """
        .formatted(url, adminKey, keyFile, frontend, token());
  }

  private static void revoke(MnemexClient client, String name) {
    client.access().keys().stream()
        .filter(key -> key.name().equals(name) && key.state().equals("active"))
        .forEach(key -> client.access().revoke(key.id()));
  }

  /** Settings of search nodes, with a new key by which they report. */
  List<String> nodeSettings(MnemexClient client) throws IOException {
    Path file = keyFile.resolveSibling("node-key");
    Files.deleteIfExists(file);
    revoke(client, NODES);
    write(file, client.access().create(KeyRequest.of(NODES, "node")).secret());
    return List.of("--mnemex.node.key-file=" + file.toAbsolutePath());
  }

  private String token() throws IOException {
    JWTClaimsSet claims =
        new JWTClaimsSet.Builder()
            .subject("a visitor of the fern house")
            .claim("endpoints", List.of("plant-search"))
            .claim("filter", "family = 'Dryopteridaceae'")
            .expirationTime(Date.from(Instant.now().plus(VALID)))
            .build();
    SignedJWT token = new SignedJWT(new JWSHeader(JWSAlgorithm.HS256), claims);
    try {
      token.sign(new MACSigner(Files.readString(secretFile).strip()));
    } catch (JOSEException e) {
      throw new IOException("the token could not be signed", e);
    }
    return token.serialize();
  }
}
