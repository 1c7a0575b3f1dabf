package org.mnemex.service.install;

/**
 * A file with definitions.
 *
 * @param name name of the file, used in errors
 * @param text its content, YAML
 */
public record DefinitionFile(String name, String text) {
  public DefinitionFile {
    if (name == null || text == null || name.indexOf('\0') >= 0) {
      throw new IllegalArgumentException("a file has a 'name' and a 'text'");
    }
  }
}
