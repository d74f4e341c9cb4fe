<?php

declare(strict_types=1);

use Kaiseki\Core\Mail\Dav\DavAddress;
use Kaiseki\Core\Mail\Dav\DavFailure;
use Kaiseki\Core\Mail\Dav\DavXml;

it('takes addresses that keep passwords to themselves', function (string $words, ?string $home): void {
    if ($home === null) {
        expect(fn () => DavAddress::parse($words))->toThrow(InvalidArgumentException::class);
    } else {
        $at = DavAddress::parse($words);
        expect($at->origin.$at->home('a b@x'))->toBe($home);
    }
})->with([
    ['https://dav.example', 'https://dav.example/a%20b%40x/'],
    ['https://dav.example:8443/cal/{mailbox}/home/', 'https://dav.example:8443/cal/a%20b%40x/home/'],
    ['http://127.0.0.1:5232/', 'http://127.0.0.1:5232/a%20b%40x/'], ['http://dav.example/', null], ['ftp://dav.example/', null],
    ['https://dav.example/../x', null], ['https://u:p@dav.example/', null], ["https://dav.example/\nx", null],
]);

it('believes no answer that is none', function (string $xml): void {
    expect(fn () => iterator_to_array(DavXml::responses($xml)))->toThrow(DavFailure::class);
})->with([
    '', 'hello', '<multistatus xmlns="DAV:">',
    '<!DOCTYPE a [<!ENTITY b "bbbb">]><multistatus xmlns="DAV:"><response><href>&b;</href></response></multistatus>',
]);

it('takes from an answer only what the server has, and only its own paths', function (): void {
    $xml = '<multistatus xmlns="DAV:"><response><href>/a/../b/</href></response><response><href>http://elsewhere.example/c/</href>'.
        '<propstat><prop><displayname>no</displayname></prop><status>HTTP/1.1 404 Not Found</status></propstat>'.
        '<propstat><prop><getetag>"1"</getetag></prop><status>HTTP/1.1 200 OK</status></propstat></response></multistatus>';
    $found = iterator_to_array(DavXml::responses($xml));
    expect(array_keys($found))->toBe(['/c/'])
        ->and(DavXml::text($found['/c/'], 'DAV:', 'displayname'))->toBe('')
        ->and(DavXml::text($found['/c/'], 'DAV:', 'getetag'))->toBe('"1"');
});

it('reads the account of changes that RFC 6578 has as its examples', function (): void {
    // RFC 6578, 3.8: one removed, two changed, and the token for the next time; 3.10: told in part, of which the rest is to be asked.
    $removed = '<?xml version="1.0" encoding="utf-8" ?><D:multistatus xmlns:D="DAV:"><D:response><D:href>/calendars/1/a.txt</D:href>'.
        '<D:propstat><D:prop><D:getetag>"00001-abcd1"</D:getetag></D:prop><D:status>HTTP/1.1 200 OK</D:status></D:propstat></D:response>'.
        '<D:response><D:href>/calendars/1/b.txt</D:href><D:status>HTTP/1.1 404 Not Found</D:status></D:response>'.
        '<D:sync-token>http://example.com/ns/sync/1238</D:sync-token></D:multistatus>';
    $found = iterator_to_array(DavXml::responses($removed));
    expect(array_map(DavXml::status(...), $found))->toBe(['/calendars/1/a.txt' => 0, '/calendars/1/b.txt' => 404])
        ->and(DavXml::syncToken(DavXml::document($removed)))->toBe('http://example.com/ns/sync/1238');
    $partly = '<D:multistatus xmlns:D="DAV:"><D:response><D:href>/calendars/1/</D:href><D:status>HTTP/1.1 507 Insufficient Storage'.
        '</D:status><D:error><D:number-of-matches-within-limits/></D:error></D:response></D:multistatus>';
    expect(DavXml::status(iterator_to_array(DavXml::responses($partly))['/calendars/1/']))->toBe(507)
        ->and(DavXml::syncToken(DavXml::document($partly)))->toBe('');
});
