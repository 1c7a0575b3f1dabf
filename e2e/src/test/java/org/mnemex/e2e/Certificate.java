package org.mnemex.e2e;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.List;

/**
 * A certificate for this machine, from an authority that nobody else knows.
 *
 * @param authority certificate of the authority (PEM)
 * @param certificate certificate of a service (PEM)
 * @param key its private key (PEM)
 */
record Certificate(Path authority, Path certificate, Path key) {
  /** Makes an authority and a certificate of it. */
  static Certificate make(Path folder) throws IOException, InterruptedException {
    Certificate made =
        new Certificate(
            folder.resolve("authority.pem"),
            folder.resolve("certificate.pem"),
            folder.resolve("certificate.key"));
    Path names = Files.writeString(folder.resolve("names"), "subjectAltName=IP:127.0.0.1\n");
    String authorityKey = "authority.key";
    openssl(
        folder,
        "req -x509 -newkey rsa:2048 -nodes -days 2 -subj /CN=quillmere -keyout %s -out %s"
            .formatted(authorityKey, made.authority));
    openssl(
        folder,
        "req -newkey rsa:2048 -nodes -subj /CN=search -keyout %s -out request".formatted(made.key));
    openssl(
        folder,
        "x509 -req -in request -CA %s -CAkey %s -CAcreateserial -days 2 -extfile %s -out %s"
            .formatted(made.authority, authorityKey, names, made.certificate));
    return made;
  }

  private static void openssl(Path folder, String arguments)
      throws IOException, InterruptedException {
    Process process =
        new ProcessBuilder(("openssl " + arguments).split(" "))
            .directory(folder.toFile())
            .redirectErrorStream(true)
            .start();
    String said = new String(process.getInputStream().readAllBytes(), StandardCharsets.UTF_8);
    assertThat(process.waitFor()).as(said).isZero();
  }

  /** Settings of a service that shows it. */
  List<String> settings() {
    return List.of(
        "--server.ssl.bundle=web",
        "--spring.ssl.bundle.pem.web.keystore.certificate=" + certificate,
        "--spring.ssl.bundle.pem.web.keystore.private-key=" + key);
  }
}
