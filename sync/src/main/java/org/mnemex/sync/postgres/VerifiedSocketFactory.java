package org.mnemex.sync.postgres;

import java.io.IOException;
import java.nio.file.Path;
import java.security.GeneralSecurityException;
import java.util.Properties;
import javax.net.ssl.SSLContext;
import org.jspecify.annotations.Nullable;
import org.mnemex.sync.definition.Tls;
import org.postgresql.PGProperty;
import org.postgresql.ssl.WrappedFactory;

/**
 * Encrypted sockets of the driver for a server whose certificate is verified. The driver makes it
 * by its name and checks the server's host name itself.
 */
public final class VerifiedSocketFactory extends WrappedFactory {
  /**
   * Reads the certificates that {@link #use} has set.
   *
   * @throws IOException if a file cannot be read or does not contain what it should
   */
  public VerifiedSocketFactory(Properties properties) throws IOException, GeneralSecurityException {
    Path certificate = path(PGProperty.SSL_CERT, properties);
    Path key = path(PGProperty.SSL_KEY, properties);
    Tls tls =
        new Tls(
            Tls.Mode.VERIFY_CA,
            path(PGProperty.SSL_ROOT_CERT, properties),
            certificate == null || key == null ? null : new Tls.Identity(certificate, key));
    SSLContext context = SSLContext.getInstance("TLS");
    context.init(tls.keys(), tls.trust(), null);
    factory = context.getSocketFactory();
  }

  /**
   * Sets what the driver needs to connect as {@code tls} says.
   *
   * @throws IOException if a file cannot be read, which the driver would not say
   */
  static void use(Tls tls, Properties properties) throws IOException {
    tls.keys();
    tls.trust();
    PGProperty.SSL_FACTORY.set(properties, VerifiedSocketFactory.class.getName());
    if (tls.authorities() != null) {
      PGProperty.SSL_ROOT_CERT.set(properties, tls.authorities().toString());
    }
    if (tls.identity() != null) {
      PGProperty.SSL_CERT.set(properties, tls.identity().certificate().toString());
      PGProperty.SSL_KEY.set(properties, tls.identity().key().toString());
    }
  }

  private static @Nullable Path path(PGProperty property, Properties properties) {
    String text = property.getOrDefault(properties);
    return text == null ? null : Path.of(text);
  }
}
