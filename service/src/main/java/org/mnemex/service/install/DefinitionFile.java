package org.mnemex.service.install;

/**
 * A file with definitions.
 *
 * @param name as errors call it
 * @param text YAML
 */
public record DefinitionFile(String name, String text) {
  public DefinitionFile {
    if (name == null || text == null || name.indexOf('\0') >= 0) {
      throw new IllegalArgumentException("a file has a 'name' and a 'text'");
    }
  }
}
