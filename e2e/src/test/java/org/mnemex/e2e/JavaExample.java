package org.mnemex.e2e;

import static org.assertj.core.api.Assertions.assertThat;

import java.net.URI;
import java.net.URL;
import java.net.URLClassLoader;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.List;
import javax.tools.ToolProvider;

/** Runs an example in Java of the documentation: the statements of a method, without imports. */
final class JavaExample {
  private JavaExample() {}

  /**
   * Compiles and runs statements that may use {@code uri}, of the service, and {@code key}.
   *
   * @param folder where class files may be written
   */
  static void run(String statements, URI service, Path folder) throws Exception {
    Path source = Files.createTempDirectory(folder, "example").resolve("Example.java");
    Files.writeString(
        source,
        """
        import java.net.URI;
        import java.time.Duration;
        import java.util.*;
        import org.mnemex.client.*;

        public class Example {
          public static void run(URI uri, String key) throws Exception {
        %s
          }
        }
        """
            .formatted(statements.indent(4)));
    int failed =
        ToolProvider.getSystemJavaCompiler()
            .run(
                null,
                null,
                null,
                "-cp",
                System.getProperty("java.class.path"),
                "-d",
                source.getParent().toString(),
                source.toString());
    assertThat(failed).as(statements).isZero();
    List<URL> classes = List.of(source.getParent().toUri().toURL());
    try (URLClassLoader loader =
        new URLClassLoader(classes.toArray(URL[]::new), JavaExample.class.getClassLoader())) {
      loader
          .loadClass("Example")
          .getMethod("run", URI.class, String.class)
          .invoke(null, service, null);
    }
  }
}
