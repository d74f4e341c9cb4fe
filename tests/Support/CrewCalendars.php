<?php

declare(strict_types=1);

namespace Tests\Support;

use App\Kinds\Items\Server\MailServer as KnownServer;
use App\Models\Workload;
use Kaiseki\Core\Mail\Dav\DavCollection;
use Kaiseki\Core\Mail\Dav\DavEntry;
use Kaiseki\Core\Mail\Dav\DavHome;
use Kaiseki\Core\Mail\ItemSort;
use Kaiseki\StandIns\CalendarServer;
use Tests\TestCase;

/** Calendars and contacts on a real server that live from a seed, the sets that are made of them, and what was in them then. */
final class CrewCalendars
{
    public const ADA = 'ada@sorrel.example';

    public const BEN = 'ben@sorrel.example';

    public const SPARE = 'spare@sorrel.example';

    public const WORKLOAD = 'crew-calendars';

    private const COLLECTIONS = ['work' => ItemSort::Appointment, 'Übergabe' => ItemSort::Appointment, 'people' => ItemSort::Contact];

    public readonly CalendarServerAtWork $server;

    public readonly CalendarSamples $samples;

    /** @var array<string, array<string, list<string>>> set => "mailbox/collection" => identities */
    public array $then = [];

    private int $made = 0;

    public function __construct(private readonly TestCase $test, int $seed)
    {
        $this->samples = new CalendarSamples($seed);
        $this->server = new CalendarServerAtWork([self::ADA, self::BEN, self::SPARE]);
        foreach ([self::ADA, self::BEN] as $name) {
            foreach (self::COLLECTIONS as $collection => $sort) {
                $this->server->open($name)->make($collection, $sort);
            }
        }
    }

    /** A day in the life of two people: things are put down, changed and struck out. */
    public function live(int $deeds): void
    {
        foreach ([self::ADA, self::BEN] as $name) {
            $home = $this->server->open($name);
            for ($deed = 0; $deed < $deeds; $deed++) {
                $collection = $this->samples->one($home->collections());
                $there = $home->entries($collection);
                $does = $there === [] ? 0 : $this->samples->between(0, 9);
                match (true) {
                    $does < 5 => $this->add($home, $collection),
                    $does < 8 => $this->change($home, $collection, $this->samples->one($there)),
                    default => $this->strike($home, $this->samples->one($there)),
                };
            }
        }
    }

    private function add(DavHome $home, DavCollection $to): void
    {
        $object = $this->object($to->holds, null);
        $home->put("{$to->href}o".++$this->made.".{$to->holds->ending()}", $object, $to->holds, null);
    }

    private function change(DavHome $home, DavCollection $in, DavEntry $entry): void
    {
        preg_match('/^UID:(.*?)\r?$/m', $entry->bytes, $uid);
        $home->put($entry->href, $this->object($in->holds, $uid[1] ?? ''), $in->holds, $entry->etag);
    }

    private function strike(DavHome $home, DavEntry $entry): void
    {
        $home->remove($entry->href, $entry->etag);
    }

    private function object(ItemSort $sort, ?string $uid): string
    {
        return $sort === ItemSort::Contact ? $this->samples->contact($uid) : $this->samples->appointment($uid);
    }

    /** @return string the set */
    public function protect(string $level): string
    {
        $arguments = Workload::query()->where('name', self::WORKLOAD)->exists() ? [] : ["--mail={$this->server->files()}"];
        $set = (string) $this->test->told(0, 'protect', self::WORKLOAD, "--level=$level", ...$arguments)['set'];
        $this->then[$set] = $this->now(self::ADA) + $this->now(self::BEN);
        sleep(1); // a set is named by its second

        return $set;
    }

    /** The desk knows the server from now on. */
    public function known(): KnownServer
    {
        $server = KnownServer::query()->create([
            'name' => 'crew',
            'imap' => '',
            'dav' => $this->server->address(),
            'user' => CalendarServer::MASTER,
            'password' => CalendarServerAtWork::PASSWORD,
            'naming' => '{mailbox}',
        ]);
        $server->holds(Workload::query()->where('name', self::WORKLOAD)->firstOrFail());

        return $server;
    }

    /**
     * What is in the collections of somebody now.
     *
     * @return array<string, list<string>> "mailbox/collection" => identities, sorted; none for empty ones
     */
    public function now(string $mailbox, string $as = ''): array
    {
        $home = $this->server->open($mailbox);
        $there = [];
        foreach ($home->collections() as $collection) {
            $all = array_map(fn (DavEntry $one): string => bin2hex($collection->holds->identityOf($one->bytes)),
                $home->entries($collection));
            sort($all);
            $there += $all === [] ? [] : [($as === '' ? $mailbox : $as)."/{$collection->name()}" => $all];
        }

        return $there;
    }

    /** @return list<DavEntry> */
    public function entries(string $mailbox, string $collection, ItemSort $sort = ItemSort::Appointment): array
    {
        $home = $this->server->open($mailbox);
        $of = $home->collection($collection, $sort);

        return $of === null ? [] : $home->entries($of);
    }
}
