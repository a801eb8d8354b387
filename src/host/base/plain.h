/* Foreign text, made fit for a terminal, a page and a line of CSV. */
#ifndef PINTLE_PRIV_BASE_PLAIN_H
#define PINTLE_PRIV_BASE_PLAIN_H

/* The text as one line: UTF-8, a space for each control character (an escape sequence could
 * repaint a terminal), no space at its ends; g_free it. Null stays null. */
char *pintle_priv_plain(const char *text);

/* Likewise in place, line ends kept; what is not UTF-8 becomes "?". */
void pintle_priv_plain_here(char *text);

/* The first line (from 1) with a byte that is no text: not UTF-8, or a control character other than
 * a tab or the end of a line. 0: there is none. */
unsigned pintle_priv_plain_line(const char *text);

#endif
