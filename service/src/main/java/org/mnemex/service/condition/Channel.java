package org.mnemex.service.condition;

import java.io.IOException;

/** A way to tell somebody. */
interface Channel {
  /** Its name, which says where messages go, and no secret. */
  String name();

  /**
   * Sends a message.
   *
   * @param id the same whenever the message is sent again, so that receivers can leave out repeats
   * @param json the message as JSON
   * @throws IOException if it did not arrive, with the reason
   */
  void send(String id, Message message, byte[] json) throws IOException;
}
