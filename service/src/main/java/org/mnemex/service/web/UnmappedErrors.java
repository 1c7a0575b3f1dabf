package org.mnemex.service.web;

import io.swagger.v3.oas.annotations.Hidden;
import jakarta.servlet.RequestDispatcher;
import jakarta.servlet.http.HttpServletRequest;
import org.springframework.boot.webmvc.error.ErrorController;
import org.springframework.http.HttpHeaders;
import org.springframework.http.HttpStatus;
import org.springframework.http.ResponseEntity;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.RestController;

/** Answers requests without a handler, and for the error page itself. */
@RestController
@Hidden
class UnmappedErrors implements ErrorController {
  @RequestMapping("/error")
  ResponseEntity<Object> error(HttpServletRequest request) {
    Object status = request.getAttribute(RequestDispatcher.ERROR_STATUS_CODE);
    return Problems.answer(
        Problems.of(status instanceof Integer code ? code : HttpStatus.NOT_FOUND.value()),
        HttpHeaders.EMPTY);
  }
}
