<?php

declare(strict_types=1);

use Kaiseki\Core\Mail\ItemField;
use Kaiseki\Core\Mail\ItemQuery;
use Kaiseki\Core\Mail\ItemTerm;
use Kaiseki\Core\Mail\SearchWords;

it('reads one line', function (): void {
    $line = 'from:purser subject:"Dry Dock" before:2026-11-02 attachments>0 size<=2M "starboard" -is:read -quay';
    $query = ItemQuery::parse($line, 'Europe/Oslo');
    expect($query->terms)->toEqual([
        new ItemTerm(ItemField::From, ['purser'], false, false),
        new ItemTerm(ItemField::Subject, ['dry', 'dock'], true, false),
        new ItemTerm(null, ['starboard'], true, false),
        new ItemTerm(null, ['quay'], false, true),
    ])
        ->and($query->before)->toBe((new DateTimeImmutable('2026-11-02T00:00:00+01:00'))->getTimestamp())
        ->and($query->numbers)->toBe([['attachments', '>', 0], ['size', '<=', 2_000_000]])
        ->and($query->flags)->toBe(['S' => false])
        ->and($query->isEmpty())->toBeFalse();
});

it('takes days as they begin and end where the person is', function (): void {
    // The day on which clocks go back there has 25 hours.
    $day = ItemQuery::parse('on:2026-10-25', 'Europe/Oslo');
    expect($day->before - $day->after)->toBe(25 * 3600)
        ->and(ItemQuery::parse('after:2026-10-25', 'Europe/Oslo')->after)->toBe($day->before)
        ->and(ItemQuery::parse('')->isEmpty())->toBeTrue()
        ->and(ItemQuery::parse('!!!')->isEmpty())->toBeTrue();
});

it('knows where, whose, which and in what state', function (): void {
    $query = ItemQuery::parse('folder:"Projects/Dry dock" mailbox:ines id:<1@x.example> is:unread is:flagged to:bosun@sorrel.example');
    expect([ItemQuery::parse('is:gone')->isGone, ItemQuery::parse('-is:gone')->isGone, $query->isGone])->toBe([true, false, null]);
    expect([$query->folder, $query->mailbox, $query->messageId, $query->flags])
        ->toBe(['Projects/Dry dock', 'ines', '1@x.example', ['S' => false, 'F' => true]])
        ->and($query->terms)->toEqual([new ItemTerm(ItemField::To, ['bosun', 'sorrel', 'example'], true, false)]);
});

it('says what it does not understand', function (string $line, string $because): void {
    expect(fn () => ItemQuery::parse($line))->toThrow(InvalidArgumentException::class, $because);
})->with([
    ['colour:red', '"colour:" is nothing'],
    ['before:yesterday', 'is no day'],
    ['before:2026-02-30', 'is no day'],
    ['subject:"open', 'A quotation mark is open'],
    ['is:purple', '"is:purple" means nothing'],
    ['size>big', 'is no size'],
    ['attachments>3k', 'no number of attachments'],
    ['-folder:x', '"-folder:" means nothing'],
    [str_repeat('a', 1_001), 'at most 1000'],
    [implode(' ', range(100, 140)), 'at most 30 words'],
]);

it('looks for words without accents, without case, and in pairs where there are no spaces', function (string $text, array $words): void {
    expect(SearchWords::of($text))->toBe($words);
})->with([
    ['Übergabe Straße', ['ubergabe', 'strasse']],
    ['Søren Łucja Dąb', ['soren', 'lucja', 'dab']],
    ["cafe\u{301} CAFÉ", ['cafe', 'cafe']],
    ['purser@sorrel.example', ['purser', 'sorrel', 'example']],
    ['潮汐表 2026', ['潮汐', '汐表', '2026']],
    ['海', ['海']],
    ['ﬁne ½', ['fine', '1', '2']],
    ["\xff\xfe", []],
    [str_repeat('a', 100), [str_repeat('a', 60)]],
]);
