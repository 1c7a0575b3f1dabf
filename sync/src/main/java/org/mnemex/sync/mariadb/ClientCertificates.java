package org.mnemex.sync.mariadb;

import java.io.IOException;
import java.nio.file.Path;
import java.sql.SQLException;
import java.util.Properties;
import javax.net.ssl.KeyManager;
import org.jspecify.annotations.Nullable;
import org.mariadb.jdbc.Configuration;
import org.mariadb.jdbc.export.ExceptionFactory;
import org.mariadb.jdbc.plugin.tls.main.DefaultTlsSocketPlugin;
import org.mnemex.sync.definition.Tls;

/**
 * Lets the driver show a certificate from PEM files, since its own options know only key stores.
 * The driver finds this class as a service and makes it by its name.
 */
public final class ClientCertificates extends DefaultTlsSocketPlugin {
  private static final String TYPE = "mnemex";
  private static final String CERTIFICATE = "mnemexCertificate";
  private static final String KEY = "mnemexKey";

  /** Sets what the driver needs to show a certificate. */
  static void show(Tls.Identity identity, Properties properties) {
    properties.setProperty("tlsSocketType", TYPE);
    properties.setProperty(CERTIFICATE, identity.certificate().toString());
    properties.setProperty(KEY, identity.key().toString());
  }

  @Override
  public String type() {
    return TYPE;
  }

  @Override
  public KeyManager @Nullable [] getKeyManager(
      Configuration configuration, ExceptionFactory exceptions) throws SQLException {
    Properties options = configuration.nonMappedOptions();
    Tls.Identity identity =
        new Tls.Identity(
            Path.of(options.getProperty(CERTIFICATE)), Path.of(options.getProperty(KEY)));
    try {
      return new Tls(Tls.Mode.VERIFY_CA, null, identity).keys();
    } catch (IOException e) {
      throw new SQLException(e.getMessage(), e);
    }
  }
}
