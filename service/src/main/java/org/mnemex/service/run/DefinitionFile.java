package org.mnemex.service.run;

/**
 * A file with definitions.
 *
 * @param name as errors shall call it
 * @param text YAML
 */
public record DefinitionFile(String name, String text) {}
