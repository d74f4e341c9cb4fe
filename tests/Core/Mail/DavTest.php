<?php

declare(strict_types=1);

use Kaiseki\Core\Mail\Dav\DavAddress;
use Kaiseki\Core\Mail\Dav\DavCollection;
use Kaiseki\Core\Mail\Dav\DavEntry;
use Kaiseki\Core\Mail\Dav\DavFailure;
use Kaiseki\Core\Mail\Dav\DavHome;
use Kaiseki\Core\Mail\ItemSort;
use Kaiseki\StandIns\CalendarServer;
use Tests\Support\CalendarSamples;
use Tests\Support\CalendarServerAtWork;

/* Against a real server: Radicale. */

beforeEach(function (): void {
    $this->at = new CalendarServerAtWork(['ada@sorrel.example']);
});

afterEach(function (): void {
    $this->at->remove();
});

it('makes collections, lays objects, and reads them again', function (ItemSort $sort, string $name): void {
    $home = $this->at->open('ada@sorrel.example');
    expect($home->collections())->toBe([])->and($home->sendsInvitations())->toBeFalse();
    $made = $home->make($name, $sort);
    expect($home->collection($name, $sort))->toBeInstanceOf(DavCollection::class)
        ->and($home->collection($name, $sort)?->href)->toBe($made->href)
        ->and($home->collection($name, $sort === ItemSort::Contact ? ItemSort::Appointment : ItemSort::Contact))->toBeNull();
    $samples = new CalendarSamples(4);
    $objects = array_map(fn (): string => $sort === ItemSort::Contact ? $samples->contact() : $samples->appointment(), range(1, 30));
    foreach ($objects as $number => $object) {
        $home->put("{$made->href}o%20$number.{$sort->ending()}", $object, $sort, null);
    }
    $identities = fn (array $all): array => array_map(fn (string $one): string => bin2hex($sort->identityOf($one)), $all);
    $there = array_map(fn (DavEntry $one): string => $one->bytes, $home->entries($made));
    expect($identities($there))->toEqualCanonicalizing($identities($objects))
        ->and($home->entry("{$made->href}o%2099.{$sort->ending()}"))->toBeNull();
})->with([[ItemSort::Appointment, 'Ærø & „Pier"'], [ItemSort::Contact, 'people']]);

it('replaces and takes away only what is still as it was seen', function (): void {
    $home = $this->at->open('ada@sorrel.example');
    $made = $home->make('work', ItemSort::Appointment);
    $samples = new CalendarSamples(5);
    $href = "{$made->href}a.ics";
    $home->put($href, $samples->appointment('a@x'), ItemSort::Appointment, null);
    $seen = $home->entry($href);
    assert($seen !== null);
    $status = function (callable $do): int {
        try {
            $do();

            return 0;
        } catch (DavFailure $failure) {
            return $failure->status;
        }
    };
    expect($status(fn () => $home->put($href, $samples->appointment('a@x'), ItemSort::Appointment, null)))->toBe(412)
        ->and($status(fn () => $home->put("{$made->href}b.ics", $samples->appointment('a@x'), ItemSort::Appointment, null)))->toBe(409);
    $home->put($href, $samples->appointment('a@x'), ItemSort::Appointment, $seen->etag);
    expect($status(fn () => $home->put($href, $samples->appointment('a@x'), ItemSort::Appointment, $seen->etag)))->toBe(412)
        ->and($status(fn () => $home->remove($href, $seen->etag)))->toBe(412);
    $home->remove($href, $home->entry($href)->etag ?? '');
    expect($home->entries($made))->toBe([]);
});

it('tells who is not there, and who may not come in', function (): void {
    expect(fn () => $this->at->open('nobody@sorrel.example'))->toThrow(DavFailure::class, 'HTTP 404');
    $wrong = fn () => DavHome::open(DavAddress::parse($this->at->address()), CalendarServer::MASTER, 'wrong', 'ada@sorrel.example');
    expect($wrong)->toThrow(DavFailure::class, 'HTTP 401');
    $this->at->kill();
    expect(fn () => $this->at->open('ada@sorrel.example'))->toThrow(DavFailure::class, 'does not answer');
});

it('tells what changed since it was asked, and that it has forgotten', function (): void {
    $home = $this->at->open('ada@sorrel.example');
    $made = $home->make('work', ItemSort::Appointment);
    $samples = new CalendarSamples(9);
    $put = fn (string $name, ?string $instead = null) => $home->put("{$made->href}$name.ics", $samples->appointment("$name@x"),
        ItemSort::Appointment, $instead);
    array_map($put, ['a', 'b', 'c']);
    $all = $home->changes($made, '');
    expect($all?->there)->toEqualCanonicalizing($home->etags($made))->and($all?->gone)->toBe([])->and($all?->token)->not->toBe('');

    $home->remove("{$made->href}a.ics", $all->there["{$made->href}a.ics"]);
    $put('b', $all->there["{$made->href}b.ics"]);
    $put('d');
    $since = $home->changes($made, $all->token);
    expect(array_keys($since?->there ?? []))->toEqualCanonicalizing(["{$made->href}b.ics", "{$made->href}d.ics"])
        ->and($since?->gone)->toBe(["{$made->href}a.ics"])
        ->and($since?->after($all->there))->toEqualCanonicalizing($home->etags($made))
        ->and($home->changes($made, $since->token)?->there)->toBe([]);

    $this->at->forget();
    $put('e');
    expect($home->changes($made, $all->token))->toBeNull()->and($home->changes($made, 'http://elsewhere.example/1'))->toBeNull()
        ->and($home->changes($made, '')?->there)->toEqualCanonicalizing($home->etags($made));
});
