<?php

declare(strict_types=1);

namespace App\Kinds\Items\Page;

use Kaiseki\Core\Mail\Message;
use Symfony\Component\HtmlSanitizer\HtmlSanitizer;
use Symfony\Component\HtmlSanitizer\HtmlSanitizerConfig;

/**
 * The HTML of a message as a page for a frame without rights: cleaned by a list of what may stay, without scripts, forms, styles and links,
 * and with no picture but those that came with it.
 */
final class LetterPage
{
    /** More is shown as text: cleaning takes time with the square of depth. */
    private const LONGEST = 1_000_000;

    private const DEEPEST = 500;

    /** What such a page may do, in the words of its header: nothing. */
    public const POLICY = "sandbox; default-src 'none'; img-src data:; style-src 'unsafe-inline'; base-uri 'none'; form-action 'none'; ".
        "frame-ancestors 'self'";

    private const LOOKS = 'body{font:14px/1.45 sans-serif;color:#1b1b1b;background:#fff;margin:12px;overflow-wrap:anywhere}'.
        'img{max-width:100%;height:auto}table{border-collapse:collapse}td,th{vertical-align:top;padding:1px 4px}'.
        'blockquote{border-left:2px solid #bbb;margin:4px 0 4px 4px;padding-left:10px;color:#444}pre{white-space:pre-wrap}';

    /** @param  int  $remote  pictures that would have been fetched from elsewhere */
    private function __construct(public readonly string $html, public readonly int $remote)
    {
    }

    /** Null where it has no HTML, or none that can be cleaned in time. */
    public static function of(Message $message): ?self
    {
        $html = $message->html();
        if (trim($html) === '' || strlen($html) > self::LONGEST || self::isTooDeep($html)) {
            return null;
        }
        $pictures = new CidPictures($message);
        $config = (new HtmlSanitizerConfig)
            ->allowSafeElements()
            ->dropElement('video')->dropElement('audio')->dropElement('picture')->dropElement('map')->dropElement('area')
            ->dropAttribute('id', '*')->dropAttribute('name', '*')->dropAttribute('href', '*')->dropAttribute('class', '*')
            ->allowMediaSchemes(['data'])
            ->withAttributeSanitizer($pictures)
            ->withMaxInputLength(self::LONGEST);
        $clean = (new HtmlSanitizer($config))->sanitize(mb_scrub($html, 'UTF-8'));

        return new self(
            '<!doctype html><html lang=""><head><meta charset="utf-8"><title>Message</title><style>'.self::LOOKS.'</style></head><body>'.
                $clean.'</body></html>',
            $pictures->remote,
        );
    }

    /** Elements that are open at once, told without building anything of them. */
    private static function isTooDeep(string $html): bool
    {
        preg_match_all('~<(/?)[a-zA-Z]~', $html, $tags);
        $depths = [0];
        foreach ($tags[1] as $end) {
            $depths[] = (int) end($depths) + ($end === '' ? 1 : -1);
        }

        return max($depths) > self::DEEPEST; // elements that nobody ends count too: rather text than a page that takes minutes
    }
}
