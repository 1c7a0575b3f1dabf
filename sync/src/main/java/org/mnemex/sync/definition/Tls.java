package org.mnemex.sync.definition;

import java.io.IOException;
import java.io.InputStream;
import java.nio.file.Files;
import java.nio.file.Path;
import java.security.GeneralSecurityException;
import java.security.KeyStore;
import java.security.cert.Certificate;
import java.security.cert.CertificateFactory;
import javax.net.ssl.TrustManager;
import javax.net.ssl.TrustManagerFactory;
import org.jspecify.annotations.Nullable;

/**
 * How a connection to a server is encrypted.
 *
 * @param mode what is required
 * @param authorities certificates (PEM) of the authorities that may sign the server's; null for the
 *     authorities Java trusts
 */
public record Tls(Mode mode, @Nullable Path authorities) {
  /** Encrypted only if the driver and the server agree on it by default. */
  public static final Tls USUAL = new Tls(Mode.USUAL, null);

  /** What is required of a connection. */
  public enum Mode {
    /** Nothing is required; the driver and the server decide. */
    USUAL(""),
    /** The connection must be encrypted; the certificate is not checked. */
    REQUIRE("require"),
    /** The certificate must also be signed by a trusted authority. */
    VERIFY_CA("verify-ca"),
    /** The certificate must also be issued for the host name of the server. */
    VERIFY_FULL("verify-full");

    private final String word;

    Mode(String word) {
      this.word = word;
    }

    /** The name in definitions; empty for {@link #USUAL}. */
    public String word() {
      return word;
    }

    /** Whether the server's certificate is verified. */
    public boolean verifies() {
      return this == VERIFY_CA || this == VERIFY_FULL;
    }
  }

  /**
   * Trust managers for the authorities' certificates; null to trust the authorities Java trusts.
   *
   * @throws IOException if the file cannot be read or has no certificate
   */
  public TrustManager @Nullable [] trust() throws IOException {
    if (authorities == null) {
      return null;
    }
    try (InputStream in = Files.newInputStream(authorities)) {
      KeyStore store = KeyStore.getInstance(KeyStore.getDefaultType());
      store.load(null, null);
      int number = 0;
      for (Certificate one : CertificateFactory.getInstance("X.509").generateCertificates(in)) {
        store.setCertificateEntry("authority-" + number++, one);
      }
      if (number == 0) {
        throw new IOException(authorities + " has no certificate");
      }
      TrustManagerFactory factory =
          TrustManagerFactory.getInstance(TrustManagerFactory.getDefaultAlgorithm());
      factory.init(store);
      return factory.getTrustManagers();
    } catch (GeneralSecurityException e) {
      throw new IOException(authorities + " cannot be read as certificates", e);
    }
  }
}
