<?php

declare(strict_types=1);

use App\Kinds\Items\Catalog\FoundItem;
use App\Kinds\Items\Catalog\ItemFinder;
use App\Models\BackupSet;
use App\Models\Workload;
use Kaiseki\Core\Instant;
use Kaiseki\Core\Mail\ItemQuery;
use Kaiseki\StandIns\FileHost;

/*
 * More items than a search looks at first: what it finds, page by page, is what a plain list of all of them says, in the same order.
 */

const MANY_ITEMS = 2_600;

it('finds behind the newest what it finds among them, in their order', function (): void {
    $host = new FileHost($this->scratch()->path.'/host');
    $known = [];
    for ($n = 0; $n < MANY_ITEMS; $n++) {
        $folder = $n % 3 === 0 ? '.Sent/' : ($n % 200 === 1 ? '.Plans/' : '');
        $mailbox = $n % 97 === 5 ? 'bram' : 'ada';
        // Flagged are some of the oldest alone; most were read.
        $flags = ($n < 300 && $n % 50 === 7 ? 'F' : '').($n % 31 === 0 ? '' : 'S');
        $file = $this->scratch()->file("host/files/$mailbox/{$folder}cur/m$n:2,$flags", "Message-ID: <$n@x.example>\n\nbody $n\n");
        touch($file, 1_700_006_400 - 400 + $n); // the 400th in the first second of 15 November 2023
        $known[$n] = [$mailbox, trim($folder, './'), $flags];
    }
    foreach (['ada/new', 'ada/tmp', 'ada/.Sent/new', 'ada/.Plans/new', 'bram/new', 'bram/.Sent/new', 'bram/.Plans/new'] as $folder) {
        $this->scratch()->folder("host/files/$folder");
    }
    $host->setClock(Instant::parse('2026-11-12T02:10:00Z'));
    $this->told(0, 'protect', 'post', "--mail={$host->root()}", '--level=full');
    $first = BackupSet::query()->sole();
    foreach ([3, 40, 2_599] as $n) {
        [$mailbox, $folder, $flags] = $known[$n];
        unlink("{$host->root()}/$mailbox/".($folder === '' ? '' : ".$folder/")."cur/m$n:2,$flags");
    }
    $host->setClock(Instant::parse('2026-11-13T02:10:00Z'));
    $this->told(0, 'protect', 'post');
    $last = BackupSet::query()->orderByDesc('instant')->first();
    $workload = Workload::query()->sole();
    $numbers = fn (array $found): array => array_map(
        fn (FoundItem $item): int => (int) explode('@', (string) $item->messageId)[0],
        $found,
    );
    $isThere = fn (int $n): bool => ! in_array($n, [3, 40, 2_599], true);
    foreach ([
        ['folder:Sent', $first, fn (int $n): bool => $known[$n][1] === 'Sent'],
        ['folder:Plans', $last, fn (int $n): bool => $known[$n][1] === 'Plans' && $isThere($n)],
        ['mailbox:bram', $first, fn (int $n): bool => $known[$n][0] === 'bram'],
        ['is:flagged', $first, fn (int $n): bool => str_contains($known[$n][2], 'F')],
        ['is:unread', $last, fn (int $n): bool => ! str_contains($known[$n][2], 'S') && $isThere($n)],
        ['is:unread folder:Sent', null, fn (int $n): bool => ! str_contains($known[$n][2], 'S') && $known[$n][1] === 'Sent'],
        ['is:gone', null, fn (int $n): bool => ! $isThere($n)],
        ['is:gone mailbox:ada', null, fn (int $n): bool => ! $isThere($n) && $known[$n][0] === 'ada'],
        ['before:2023-11-15', null, fn (int $n): bool => $n < 400],
        ['attachments>0', null, fn (int $n): bool => false],
    ] as [$line, $point, $fits]) {
        $wanted = array_values(array_filter(range(MANY_ITEMS - 1, 0), $fits));
        $query = ItemQuery::parse($line);
        $pages = [];
        for ($page = 0; $page <= intdiv(count($wanted), 70); $page++) {
            array_push($pages, ...$numbers(ItemFinder::find($workload, $query, $point, 70, 70 * $page)));
        }
        expect($pages)->toBe($wanted, $line)
            ->and($numbers(ItemFinder::find($workload, $query, $point, MANY_ITEMS * 2)))->toBe($wanted, $line);
    }
});
