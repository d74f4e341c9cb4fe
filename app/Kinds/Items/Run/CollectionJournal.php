<?php

declare(strict_types=1);

namespace App\Kinds\Items\Run;

use App\Models\Run;
use App\Runs\RunFiles;
use Kaiseki\Core\Files\Journal;
use Kaiseki\Core\Mail\ItemSort;
use Kaiseki\Core\UnableToWrite;

/**
 * What a run did to calendars and contacts, written before and after each deed. What stood in the place of an object is kept beside it
 * before anything else is laid there.
 */
final class CollectionJournal
{
    private const LAYING = 'laying-object';

    private const LAID = 'laid-object';

    private const MADE = 'made-collection';

    /** @var array<string, LaidObject> key => object */
    public array $laid = [];

    /** @var array<string, LaidObject> key => object of which it is not known whether it is there */
    public array $unsure = [];

    /** @var array<string, string> path of a collection => mailbox, in the order in which they were made */
    public array $made = [];

    private readonly Journal $journal;

    private int $kept = 0;

    public function __construct(private readonly Run $run)
    {
        $path = RunFiles::journal($run);
        foreach (Journal::read($path) as $line) {
            $this->take($line);
        }
        $this->journal = Journal::open($path);
    }

    public function making(string $mailbox, string $collection): void
    {
        $this->journal->add(self::MADE, $mailbox, $collection);
        $this->made[$collection] = $mailbox;
    }

    public function laying(LaidObject $object): void
    {
        $this->journal->add(
            self::LAYING,
            $object->key,
            $object->mailbox,
            $object->collection,
            $object->href,
            $object->sort->value,
            bin2hex($object->identity),
            $object->aside,
        );
        $this->unsure[$object->key] = $object;
    }

    public function laid(string $key): void
    {
        $this->journal->add(self::LAID, $key);
        $this->laid[$key] = $this->unsure[$key];
        unset($this->unsure[$key]);
    }

    /** It turned out not to be there. */
    public function isNotThere(string $key): void
    {
        unset($this->unsure[$key]);
    }

    /** @return string the name of the file that it is kept in */
    public function keep(string $bytes, ItemSort $sort): string
    {
        $folder = self::asides($this->run);
        is_dir($folder) || mkdir($folder, 0700);
        do {
            $name = ++$this->kept.".{$sort->ending()}";
        } while (is_file("$folder/$name"));
        if (file_put_contents("$folder/$name", $bytes) !== strlen($bytes)) {
            throw UnableToWrite::full("$folder/$name", 'What stands there now');
        }

        return $name;
    }

    /** Null if it was cleared away. */
    public function kept(LaidObject $object): ?string
    {
        $bytes = @file_get_contents(self::asides($this->run)."/{$object->aside}");

        return $bytes === false ? null : $bytes;
    }

    /** @return int how many of them it keeps */
    public function replaced(): int
    {
        return count(array_filter($this->laid, fn (LaidObject $one): bool => $one->aside !== ''));
    }

    public static function asides(Run $run): string
    {
        return RunFiles::folder($run).'/aside';
    }

    /** @param  list<string>  $line */
    private function take(array $line): void
    {
        if ($line[0] === self::MADE) {
            $this->made[$line[2]] = $line[1];
        } elseif ($line[0] === self::LAYING) {
            [, $key, $mailbox, $collection, $href, $sort, $identity, $aside] = $line;
            $identity = (string) hex2bin($identity);
            $this->unsure[$key] = new LaidObject($key, $mailbox, $collection, $href, ItemSort::from($sort), $identity, $aside);
        } elseif ($line[0] === self::LAID) {
            $this->laid[$line[1]] = $this->unsure[$line[1]];
            unset($this->unsure[$line[1]]);
        }
    }
}
