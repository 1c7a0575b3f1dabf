package org.mnemex.service.condition;

import java.io.IOException;
import java.util.List;
import org.springframework.mail.MailException;
import org.springframework.mail.MailSender;
import org.springframework.mail.SimpleMailMessage;

/** Sends messages by e-mail. */
final class MailChannel implements Channel {
  private final MailSender sender;
  private final String from;
  private final List<String> to;

  MailChannel(MailSender sender, String from, List<String> to) {
    this.sender = sender;
    this.from = from;
    this.to = to;
  }

  @Override
  public String name() {
    return "mail to " + String.join(", ", to);
  }

  @Override
  public void send(String id, Message message, byte[] json) throws IOException {
    SimpleMailMessage mail = new SimpleMailMessage();
    mail.setFrom(from);
    mail.setTo(to.toArray(String[]::new));
    mail.setSubject(message.subject());
    mail.setText(message.text());
    try {
      sender.send(mail);
    } catch (MailException e) {
      throw new IOException(e.getMessage(), e);
    }
  }
}
