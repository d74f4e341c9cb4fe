<?php

declare(strict_types=1);

namespace Kaiseki\Core\Mail;

/** The text of an HTML page, in one pass whatever it is: for looking in it, and for showing it as plain text. */
final class HtmlText
{
    private const SILENT = ['script', 'style', 'head', 'title', 'template'];

    private const BREAKS = ['br', 'p', 'div', 'tr', 'li', 'h1', 'h2', 'h3', 'h4', 'table'];

    /** @var array<string, true> ends that are nowhere in the rest: they are not looked for again */
    private array $nowhere = [];

    private function __construct(private readonly string $html)
    {
    }

    public static function of(string $html): string
    {
        return html_entity_decode((new self($html))->text(), ENT_QUOTES | ENT_HTML5, 'UTF-8');
    }

    private function text(): string
    {
        $text = '';
        for ($at = 0; ($open = strpos($this->html, '<', $at)) !== false;) {
            $text .= substr($this->html, $at, $open - $at);
            if (substr_compare($this->html, '<!--', $open, 4) === 0) {
                $at = $this->after('-->', $open + 4) ?? $open + 4;

                continue;
            }
            if (preg_match('~\G<(/?)([a-zA-Z][a-zA-Z0-9]*)~', $this->html, $m, 0, $open) !== 1) {
                $text .= '<';
                $at = $open + 1;

                continue;
            }
            $tag = strtolower($m[2]);
            $at = $this->after('>', $open) ?? $open + strlen($m[0]);
            if ($m[1] === '' && in_array($tag, self::SILENT, true)) {
                $at = $this->after("</$tag", $at) ?? $at;
                $at = $this->after('>', $at) ?? $at;
            }
            $text .= in_array($tag, self::BREAKS, true) ? "\n" : ($tag === 'td' && $m[1] === '' ? "\t" : '');
        }

        return $text.substr($this->html, $at);
    }

    /** The place behind the next of these; null if there is none any more. */
    private function after(string $end, int $from): ?int
    {
        $found = isset($this->nowhere[$end]) ? false : stripos($this->html, $end, min($from, strlen($this->html)));
        if ($found === false) {
            $this->nowhere[$end] = true;

            return null;
        }

        return $found + strlen($end);
    }
}
