<?php

declare(strict_types=1);

namespace Kaiseki\Core\Mail\Dav;

use DOMDocument;
use DOMElement;

/** What a server answers in XML (RFC 4918, section 14), read with limits: no entities, nothing fetched. */
final class DavXml
{
    private const DAV = 'DAV:';

    /**
     * @return iterable<string, DOMElement> path of each response, percent-encoded => the response
     *
     * @throws DavFailure if it is none
     */
    public static function responses(string $xml): iterable
    {
        return self::responsesIn(self::document($xml));
    }

    /** @return iterable<string, DOMElement> see responses() */
    public static function responsesIn(DOMDocument $answer): iterable
    {
        foreach ($answer->getElementsByTagNameNS(self::DAV, 'response') as $response) {
            $href = self::text($response, self::DAV, 'href');
            $path = (string) parse_url($href, PHP_URL_PATH);
            if (preg_match('~^/[\x21-\x7e]*$~D', $path) === 1 && ! in_array('..', explode('/', rawurldecode($path)), true)) {
                yield $path => $response;
            }
        }
    }

    /** @throws DavFailure if it is none */
    public static function document(string $xml): DOMDocument
    {
        // Entities are how a small document becomes a large one; no server needs them here.
        if (stripos($xml, '<!DOCTYPE') !== false || stripos($xml, '<!ENTITY') !== false) {
            throw DavFailure::unclear('it declares a type of document');
        }
        $document = new DOMDocument;
        $before = libxml_use_internal_errors(true);
        $isRead = $xml !== '' && $document->loadXML($xml, LIBXML_NONET | LIBXML_COMPACT | LIBXML_PARSEHUGE);
        libxml_clear_errors();
        libxml_use_internal_errors($before);
        if (! $isRead) {
            throw DavFailure::unclear('it is no XML');
        }

        return $document;
    }

    /** What HTTP says of a response as a whole (RFC 4918, 14.24); 0 where it says so of each property. */
    public static function status(DOMElement $response): int
    {
        foreach ($response->childNodes as $child) {
            if ($child instanceof DOMElement && $child->localName === 'status' && $child->namespaceURI === self::DAV) {
                return preg_match('~ (\d{3})( |$)~', $child->textContent, $found) === 1 ? (int) $found[1] : 0;
            }
        }

        return 0;
    }

    /** By what to ask the next time (RFC 6578, 6.4); '' where it does not say. */
    public static function syncToken(DOMDocument $answer): string
    {
        foreach ($answer->documentElement->childNodes ?? [] as $child) {
            if ($child instanceof DOMElement && $child->localName === 'sync-token' && $child->namespaceURI === self::DAV) {
                return trim($child->textContent);
            }
        }

        return '';
    }

    public static function text(DOMElement $in, string $space, string $name): string
    {
        return (self::all($in, $space, $name)[0] ?? null)->textContent ?? '';
    }

    /** @return list<DOMElement> those that the server has: what it could not give does not count */
    public static function all(DOMElement $in, string $space, string $name): array
    {
        $found = [];
        foreach ($in->getElementsByTagNameNS($space, $name) as $one) {
            if (self::isGiven($one)) {
                $found[] = $one;
            }
        }

        return $found;
    }

    private static function isGiven(DOMElement $one): bool
    {
        for ($above = $one->parentNode; $above instanceof DOMElement; $above = $above->parentNode) {
            if ($above->localName === 'propstat') {
                $status = $above->getElementsByTagNameNS(self::DAV, 'status')->item(0)->textContent ?? '';

                return $status === '' || preg_match('~ 2\d\d( |$)~', $status) === 1;
            }
        }

        return true;
    }
}
