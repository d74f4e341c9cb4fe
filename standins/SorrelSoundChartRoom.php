<?php

declare(strict_types=1);

namespace Kaiseki\StandIns;

use DateTimeImmutable;
use Kaiseki\Core\Archive\AccessEntry;
use Kaiseki\Core\Files\FolderBelow;
use Kaiseki\Core\Files\Permissions;
use Kaiseki\Core\Files\UnableToRestore;
use Random\Engine\Xoshiro256StarStar;
use Random\Randomizer;

/**
 * The chart room of Sorrel Sound Ferries: a library of documents with versions, permissions and views, day by day, from a seed. It is a
 * folder tree with POSIX access lists; what it knows of a document beside its content lies in ".library", see DocumentRecord.
 */
final class SorrelSoundChartRoom
{
    /** Day on which somebody lets everybody do everything, so that a tablet can open one plan. */
    public const FLATTENED_BEFORE = 3;

    public const FLATTENED = ['Minutes of the masters', 'Passage plans'];

    /** Mode of its documents, and who may do what with them beside that: groups of this machine. */
    private const FOLDERS = [
        'Charts' => [0644, ['operator' => 'rw-', 'users' => 'r--']],
        'Minutes of the masters' => [0600, ['staff' => 'r--']],
        'Passage plans' => [0640, ['operator' => 'rw-', 'staff' => 'r--']],
        'Standing orders' => [0644, ['staff' => 'rw-']],
    ];

    private const TITLES = [
        'Charts' => ['Approaches to Berth Nine', 'Gull Ness by night', 'Low Skerry, sounded', 'Sorrel Head', 'The bar at springs'],
        'Minutes of the masters' => ['September', 'October', 'Extra meeting on the collision', 'Pay of the reliefs'],
        'Passage plans' => ['Dunlin, winter', 'Knot, winter', 'Tern, ice', 'Turnstone, spare berth', 'Whimbrel, yard'],
        'Standing orders' => ['Bridge watch in fog', 'Man overboard', 'Night order book', 'Radio silence at Gull Ness'],
    ];

    private const SENTENCES = [
        'Charts' => '%d. Bearing %03d, %d.%d metres at half tide.',
        'Minutes of the masters' => '%d. Item %03d: %d for it, %d against it.',
        'Passage plans' => '%d. Steer %03d for %d.%d miles.',
        'Standing orders' => '%d. Order %03d, read by %d of the watch, %d reliefs to sign.',
    ];

    private const AUTHORS = ['Ines Varga', 'Milo Aske', 'Petra Lund', 'Tomas Reed'];

    private const REMARKS = ['read again after the watch', 'depths of the last survey', 'as agreed by the masters'];

    private readonly Randomizer $random;

    private readonly FolderBelow $folder;

    public function __construct(private readonly string $root, int $seed = 1794)
    {
        $this->random = new Randomizer(new Xoshiro256StarStar($seed));
        $this->folder = FolderBelow::open($root);
    }

    public function begin(DateTimeImmutable $day): void
    {
        foreach (self::TITLES as $folder => $titles) {
            foreach ($titles as $i => $title) {
                $this->save($day->modify('-'.(40 + 3 * $i).' days')->setTime(10, 5 * $i), $folder, $title);
            }
        }
        $views = [
            ['name' => 'Changed this week', 'sort' => 'saved_at', 'since_days' => 7],
            ['name' => 'By author', 'group' => 'author', 'sort' => 'title'],
        ];
        $this->put($day, '.library/views.json', json_encode($views, JSON_PRETTY_PRINT | JSON_THROW_ON_ERROR)."\n");
        $this->permit();
    }

    /** @param  int  $before  so many days before the last */
    public function live(DateTimeImmutable $day, int $before): void
    {
        foreach (range(1, $this->random->getInt(1, 2)) as $n) {
            $folder = array_keys(self::TITLES)[$this->random->getInt(0, 3)];
            $title = self::TITLES[$folder][$this->random->getInt(0, count(self::TITLES[$folder]) - 1)];
            $this->save($day->setTime(8 + $n, $this->random->getInt(0, 59)), $folder, $title);
        }
        $before > self::FLATTENED_BEFORE ? $this->permit() : null;
        $before === self::FLATTENED_BEFORE ? $this->flatten() : null;
    }

    /** Anew, in the next version: the present one is kept, and the record says so. */
    private function save(DateTimeImmutable $at, string $folder, string $title): void
    {
        $path = "$folder/$title.md";
        $record = json_decode((string) @file_get_contents("{$this->root}/.library/documents/$path.json"), true);
        $versions = is_array($record) ? $record['versions'] : [];
        $number = count($versions) + 1;
        if ($number > 1) {
            $kept = ".library/versions/$path/".($number - 1).'.md';
            $this->put(new DateTimeImmutable($versions[$number - 2]['saved_at']), $kept, (string) file_get_contents("{$this->root}/$path"));
        }
        $author = self::AUTHORS[$this->random->getInt(0, 3)];
        $versions[] = [
            'version' => $number,
            'author' => $author,
            'saved_at' => $at->format(DATE_ATOM),
            'remark' => $number === 1 ? '' : self::REMARKS[$number % 3],
        ];
        $this->put($at, $path, $this->text($folder, $title, $number));
        $record = ['title' => $title, 'author' => $versions[0]['author'], 'version' => $number, 'versions' => $versions];
        $this->put($at, ".library/documents/$path.json", json_encode($record, JSON_PRETTY_PRINT | JSON_THROW_ON_ERROR)."\n");
    }

    private function text(string $folder, string $title, int $number): string
    {
        $lines = ["# $title", '', "$folder, version $number.", ''];
        foreach (range(1, $this->random->getInt(6, 14)) as $n) {
            $numbers = [$n, $this->random->getInt(0, 359), $this->random->getInt(2, 30), $this->random->getInt(0, 9)];
            $lines[] = sprintf(self::SENTENCES[$folder], ...$numbers);
        }

        return implode("\n", $lines)."\n";
    }

    private function put(DateTimeImmutable $at, string $path, string $bytes): void
    {
        $full = "{$this->root}/$path";
        is_dir(dirname($full)) || mkdir(dirname($full), 0755, true);
        file_put_contents($full, $bytes);
        touch($full, $at->getTimestamp());
    }

    /** As the chart room has it: who writes what, and who reads it. */
    private function permit(): void
    {
        foreach (self::FOLDERS as $folder => [$mode, $lists]) {
            $ofFolder = array_map(fn (string $may): string => strtr($may, ['r--' => 'r-x', 'rw-' => 'rwx']), $lists);
            $this->give($folder, $mode | (($mode & 0444) >> 2), $ofFolder);
            foreach (self::TITLES[$folder] as $title) {
                $this->give("$folder/$title.md", $mode, $lists);
            }
        }
    }

    private function flatten(): void
    {
        foreach (self::FLATTENED as $folder) {
            $this->give($folder, 0777, []);
            foreach (self::TITLES[$folder] as $title) {
                $this->give("$folder/$title.md", 0666, []);
            }
        }
    }

    /** @param  array<string, string>  $groups */
    private function give(string $path, int $mode, array $groups): void
    {
        $status = $this->folder->status($path);
        if ($status === null) {
            return;
        }
        $words = fn (int $bits): string => Permissions::three($bits & 7);
        $mask = $mode >> 3 & 7;
        $entries = ['user::'.$words($mode >> 6), 'group::'.$words($mask), 'other::'.$words($mode)];
        foreach ($groups as $group => $may) {
            $entry = new AccessEntry(false, 'group', $group, $may);
            $entries[] = $entry->text();
            $mask |= $entry->bits();
        }
        $list = $groups === [] ? '' : implode(',', [...$entries, 'mask::'.$words($mask)]);
        try {
            $this->folder->permit($path, new Permissions(($mode & 0707) | ($mask << 3), $status->uid, $status->gid, $list), false);
        } catch (UnableToRestore) {
            $this->folder->permit($path, new Permissions($mode, $status->uid, $status->gid, ''), false); // a file system without lists
        }
    }
}
