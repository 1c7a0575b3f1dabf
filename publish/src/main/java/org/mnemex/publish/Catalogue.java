package org.mnemex.publish;

import java.io.IOException;
import java.util.List;
import org.mnemex.publish.store.StoredObject;

/**
 * What a builder offers: the object {@code catalogue}, as JSON.
 *
 * @param format version of this form
 * @param builder who has written it
 * @param content what is offered
 */
public record Catalogue(int format, BuilderTurn builder, Content content) {
  /** The form that this version writes. */
  static final int FORMAT = 1;

  /** The name of the object. */
  public static final String OBJECT = "catalogue";

  /**
   * Reads one.
   *
   * @throws IOException if it has another form, or a newer version has written it
   */
  public static Catalogue read(StoredObject object) throws IOException {
    return Json.read(OBJECT, object.content(), Catalogue.class, FORMAT);
  }

  /** Nothing yet. */
  static final Content NOTHING = new Content(List.of(), "");

  /**
   * What is offered.
   *
   * @param live the editions that answer; each of them has a manifest
   * @param service definitions and keys, in the service's own form
   */
  public record Content(List<EditionName> live, String service) {}
}
