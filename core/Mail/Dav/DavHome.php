<?php

declare(strict_types=1);

namespace Kaiseki\Core\Mail\Dav;

use DOMElement;
use Kaiseki\Core\Mail\ItemSort;

/** The calendars and contacts of a mailbox on a server (RFC 4791, RFC 6352). */
final readonly class DavHome
{
    private const DAV = 'DAV:';

    private const CALDAV = 'urn:ietf:params:xml:ns:caldav';

    private const CARDDAV = 'urn:ietf:params:xml:ns:carddav';

    /** Of an account of changes that is told in parts. */
    private const MOST_ROUNDS = 1_000;

    private function __construct(private DavLink $link, private string $path)
    {
    }

    /** @throws DavFailure if it is not there, or may not be opened */
    public static function open(DavAddress $at, string $user, #[\SensitiveParameter] string $password, string $account): self
    {
        $home = new self(new DavLink($at, $user, $password), $at->home($account));
        $home->collections();

        return $home;
    }

    /** Whether the server itself writes to those who are asked (RFC 6638). */
    public function sendsInvitations(): bool
    {
        $answer = $this->link->order('OPTIONS', $this->path, 'what it is able to');

        return str_contains(strtolower($answer->getHeaderLine('DAV')), 'calendar-auto-schedule');
    }

    /** @return list<DavCollection> */
    public function collections(): array
    {
        $ask = '<propfind xmlns="DAV:" xmlns:C="'.self::CALDAV.'"><prop><resourcetype/><displayname/>'.
            '<C:supported-calendar-component-set/></prop></propfind>';
        $found = [];
        foreach ($this->link->ask('PROPFIND', $this->path, $ask, 1, 'the calendars of the mailbox') as $href => $response) {
            $isCalendar = DavXml::all($response, self::CALDAV, 'calendar') !== [];
            if ($isCalendar || DavXml::all($response, self::CARDDAV, 'addressbook') !== []) {
                $found[] = new DavCollection(
                    rtrim($href, '/').'/',
                    DavXml::text($response, self::DAV, 'displayname'),
                    $isCalendar ? ItemSort::Appointment : ItemSort::Contact,
                    $isCalendar ? self::components($response) : [],
                );
            }
        }

        return $found;
    }

    /** @return list<string> */
    private static function components(DOMElement $response): array
    {
        return array_map(
            fn (DOMElement $one): string => strtoupper($one->getAttribute('name')),
            DavXml::all($response, self::CALDAV, 'comp'),
        );
    }

    /** By the name of its path, else by what people call it; null if there is none. */
    public function collection(string $name, ItemSort $holds): ?DavCollection
    {
        $fitting = array_filter($this->collections(), fn (DavCollection $one): bool => $one->holds === $holds);
        foreach ([fn (DavCollection $one): string => $one->name(), fn (DavCollection $one): string => $one->title] as $named) {
            foreach ($fitting as $one) {
                if ($named($one) === $name) {
                    return $one;
                }
            }
        }

        return null;
    }

    /** Makes a collection, with whatever stands above it (RFC 5689). */
    public function make(string $name, ItemSort $holds): DavCollection
    {
        $href = $this->path.rawurlencode($name).'/';
        $type = $holds === ItemSort::Contact
            ? '<R:addressbook xmlns:R="'.self::CARDDAV.'"/>'
            : '<C:calendar xmlns:C="'.self::CALDAV.'"/>';
        $title = htmlspecialchars($name, ENT_XML1);
        $this->link->order(
            'MKCOL',
            $href,
            "the making of \"$name\"",
            '<?xml version="1.0" encoding="utf-8"?><mkcol xmlns="DAV:"><set><prop><resourcetype><collection/>'.$type.
                "</resourcetype><displayname>$title</displayname></prop></set></mkcol>",
            ['Content-Type' => 'application/xml; charset=utf-8'],
        );

        return new DavCollection($href, $name, $holds, []);
    }

    /** @return list<DavEntry> all that is in it */
    public function entries(DavCollection $of): array
    {
        $filter = $of->holds === ItemSort::Contact ? '<X:filter/>' : '<X:filter><X:comp-filter name="VCALENDAR"/></X:filter>';

        return $this->report($of, 'query', $filter);
    }

    /**
     * What is in it, without reading any of it.
     *
     * @return array<string, string> path, percent-encoded => etag; '' where the server gave none
     */
    public function etags(DavCollection $of): array
    {
        $etags = [];
        $ask = '<propfind xmlns="DAV:"><prop><getetag/><resourcetype/></prop></propfind>';
        foreach ($this->link->ask('PROPFIND', $of->href, $ask, 1, 'what is in "'.$of->name().'"') as $href => $response) {
            if (! str_ends_with($href, '/') && DavXml::all($response, self::DAV, 'collection') === []) {
                $etags[$href] = DavXml::text($response, self::DAV, 'getetag');
            }
        }

        return $etags;
    }

    /**
     * What changed in it, without reading any of it (RFC 6578).
     *
     * @param  string  $token  what the server gave when it was asked before; '' for all of it
     * @return DavChanges|null null where the server keeps no account of changes, or has none that goes back so far
     *
     * @throws DavFailure if it is not there, or says what means nothing
     */
    public function changes(DavCollection $of, string $token): ?DavChanges
    {
        [$there, $gone] = [[], []];
        for ($round = 0; $round < self::MOST_ROUNDS; $round++) {
            try {
                $xml = $this->link->answer('REPORT', $of->href, self::sync($token), 0, 'what changed in "'.$of->name().'"');
            } catch (DavFailure $failure) {
                // Not known as a report (400, 405, 501), or the precondition valid-sync-token (403 or 409; RFC 6578, 3.2).
                return in_array($failure->status, [400, 403, 405, 409, 415, 422, 501], true) ? null : throw $failure;
            }
            $answer = DavXml::document($xml);
            $isAll = true;
            foreach (DavXml::responsesIn($answer) as $href => $response) {
                $status = DavXml::status($response);
                $isAll = $isAll && $status !== 507; // it tells the rest when it is asked again (RFC 6578, 3.6)
                if ($status === 404) {
                    $gone[$href] = true;
                    unset($there[$href]);
                } elseif ($status !== 507 && ! str_ends_with($href, '/') && DavXml::all($response, self::DAV, 'collection') === []) {
                    $there[$href] = DavXml::text($response, self::DAV, 'getetag');
                    unset($gone[$href]);
                }
            }
            $next = DavXml::syncToken($answer);
            if ($isAll && $next !== '') {
                return new DavChanges($next, $there, array_map(strval(...), array_keys($gone)));
            }
            if ($next === '' || $next === $token) {
                return null; // nothing to ask by, or it would tell the same part again
            }
            $token = $next;
        }

        return null;
    }

    private static function sync(string $token): string
    {
        return '<sync-collection xmlns="DAV:"><sync-token>'.htmlspecialchars($token, ENT_XML1).'</sync-token><sync-level>1</sync-level>'.
            '<prop><getetag/><resourcetype/></prop></sync-collection>';
    }

    /**
     * @param  list<string>  $hrefs  see etags()
     * @return list<DavEntry> those that are still there
     */
    public function read(DavCollection $of, array $hrefs): array
    {
        $named = array_map(fn (string $href): string => '<href>'.htmlspecialchars($href, ENT_XML1).'</href>', $hrefs);

        return $hrefs === [] ? [] : $this->report($of, 'multiget', implode('', $named));
    }

    /** @return list<DavEntry> */
    private function report(DavCollection $of, string $which, string $what): array
    {
        [$space, $data, $report] = $of->holds === ItemSort::Contact
            ? [self::CARDDAV, 'address-data', "addressbook-$which"]
            : [self::CALDAV, 'calendar-data', "calendar-$which"];
        $ask = "<X:$report xmlns:X=\"$space\" xmlns=\"DAV:\"><prop><getetag/><X:$data/></prop>$what</X:$report>";
        $entries = [];
        foreach ($this->link->ask('REPORT', $of->href, $ask, 1, 'what is in "'.$of->name().'"') as $href => $response) {
            $bytes = DavXml::text($response, $space, $data);
            if ($bytes !== '') {
                // XML takes carriage returns away (XML 1.0, section 2.11), and lines of RFC 5545 and RFC 6350 end with one.
                $bytes = (string) preg_replace('/\r?\n/', "\r\n", $bytes);
                $entries[] = new DavEntry($href, DavXml::text($response, self::DAV, 'getetag'), $bytes);
            }
        }

        return $entries;
    }

    /** Null if it is not there. */
    public function entry(string $href): ?DavEntry
    {
        try {
            $answer = $this->link->order('GET', $href, 'an object');
        } catch (DavFailure $failure) {
            return in_array($failure->status, [404, 410], true) ? null : throw $failure;
        }

        return new DavEntry($href, $answer->getHeaderLine('ETag'), $this->link->bytes($answer));
    }

    /**
     * Lays an object, if what is there is still what is thought of.
     *
     * @param  string|null  $instead  the etag of what it takes the place of; null where nothing may be
     *
     * @throws DavFailure with status 412 if something else is there
     */
    public function put(string $href, string $bytes, ItemSort $sort, ?string $instead): void
    {
        $type = $sort === ItemSort::Contact ? 'text/vcard; charset=utf-8' : 'text/calendar; charset=utf-8';
        $this->link->order('PUT', $href, 'an object', $bytes, ['Content-Type' => $type] + self::condition($instead));
    }

    /** @throws DavFailure with status 412 if something else is there */
    public function remove(string $href, string $etag): void
    {
        // Nobody is written to about it (RFC 6638, section 8.1).
        $this->link->order('DELETE', $href, 'the taking away of an object', null, ['Schedule-Reply' => 'F'] + self::condition($etag));
    }

    /** @return array<string, string> */
    private static function condition(?string $etag): array
    {
        return $etag === null ? ['If-None-Match' => '*'] : ($etag === '' ? [] : ['If-Match' => $etag]);
    }
}
