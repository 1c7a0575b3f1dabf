package org.mnemex.cli;

import org.jspecify.annotations.Nullable;
import picocli.CommandLine.IVersionProvider;

/** The version of what runs: the one that was packaged, else the one that was built. */
final class Version implements IVersionProvider {
  private static final String PACKAGED = "MNEMEX_VERSION";

  @Override
  public String[] getVersion() {
    return new String[] {
      "mnemex " + of(System.getenv(PACKAGED), Version.class.getPackage().getImplementationVersion())
    };
  }

  /**
   * @param packaged as the launcher of a package says, if it is one
   * @param built as the build wrote it into the archive of classes, if it is one
   */
  static String of(@Nullable String packaged, @Nullable String built) {
    if (packaged != null && !packaged.isBlank()) {
      return packaged.strip();
    }
    return built == null ? "(not built)" : built.replace("-SNAPSHOT", " (built from source)");
  }
}
