<?php

declare(strict_types=1);

namespace App\Console\Commands;

use App\Care\KeptStanding;
use App\Care\NewSources;
use App\Console\CommandLine\Kaiseki;
use App\Demo\DemoFailed;
use App\Demo\OpenRequests;
use App\Demo\People;
use App\Instance;
use App\Jobs\LookAtStores;
use App\Jobs\NightWork;
use App\Kinds\Kinds;
use App\Models\BackupSet;
use App\Models\Copy;
use App\Models\Host;
use App\Models\Making;
use App\Models\User;
use App\Models\Workload;
use App\Trees\Catalog\TextIndex;
use DateTimeImmutable;
use Illuminate\Console\Command;
use Illuminate\Database\Eloquent\Builder;
use Illuminate\Support\Facades\DB;
use Kaiseki\Core\Instant;
use Kaiseki\StandIns\FileHost;
use Kaiseki\StandIns\SorrelSoundFiles;
use Symfony\Component\Console\Input\ArgvInput;
use Symfony\Component\Console\Output\BufferedOutput;
use Symfony\Component\Process\Process;

/** Six weeks of Sorrel Sound Ferries: the stand-ins live day by day, and bin/kaiseki protects them, as a user could. */
final class MakeDemo extends Command
{
    private const DAYS = 42;

    /** The sets of the first so many days are on tape, and no longer on the disk at Boathouse. */
    private const MOVED_OUT = 13;

    protected $signature = 'kaiseki:demo';

    protected $description = 'Makes the demo: six weeks of Sorrel Sound Ferries';

    public function handle(): int
    {
        $today = (new DateTimeImmutable('-8 hours'))->setTime(0, 0); // so that this morning is over
        umask(0022); // the hosts are other machines, with files as people have them
        $this->people();
        $this->stores();
        $notice = $this->fileHosts($today);
        umask(0077);
        foreach (Kinds::all() as $name => $kind) {
            $this->components->info("What the demo has of the kind $name ...");
            $kind->makeDemo($today, self::DAYS, $this->kaiseki(...));
        }
        $this->rights();
        $this->writeDownMakings();
        $this->writeDownUse($today);
        foreach (NightWork::PARTS as $part) {
            (new $part)->handle();
        }
        (new OpenRequests)->make($today, $notice);
        (new LookAtStores)->handle();
        NewSources::keep((new NewSources)->found());
        Workload::query()->get()->each(KeptStanding::reckon(...));
        touch(Instance::path('marks/demo.done'));
        touch(Instance::path('marks/has-users'));

        return 0;
    }

    /** Hosts belong to those who work on them; stores are shared, and what lies in the vault is only read by most. */
    private function rights(): void
    {
        $rules = [
            'host:boathouse-files' => ['crew office' => 'read,write,tend'],
            'host:berth-kiosk' => ['piers' => 'read,write,tend'],
            'store:boathouse' => ['crew office' => 'read,write', 'piers' => 'read,write'],
            'store:pier-nine' => ['crew office' => 'read,write', 'piers' => 'read,write'],
            'store:pier-nine-objects' => ['crew office' => 'read'],
            'store:hill-vault' => ['crew office' => 'read'],
        ];
        foreach ($rules as $target => $groups) {
            foreach ($groups as $group => $may) {
                $this->kaiseki('rights', 'give', $target, "--group=$group", "--may=$may");
            }
        }
        foreach (['host:boathouse-files', 'host:berth-kiosk'] as $host) {
            $this->kaiseki('rights', 'take', $host, '--group='.Host::FIRST_GROUP);
        }
    }

    private function people(): void
    {
        foreach (People::ALL as $person) {
            [$name, $email, $role, $groups] = $person;
            User::query()->create([
                'name' => $name,
                'email' => $email,
                'role' => $role,
                'workload_groups' => $groups === [] ? null : $groups,
                'duties' => $person[4] ?? [],
                'password' => People::PASSWORD,
                'zone' => 'Europe/Oslo',
            ]);
        }
    }

    /** @return string path of a notice that lies in the bin of the host's owner */
    private function fileHosts(DateTimeImmutable $today): string
    {
        $first = $today->modify('-'.self::DAYS.' days');
        $host = new FileHost(Instance::folder('hosts/boathouse-files'));
        $sets = $this->sixWeeks($host, $first);
        $this->ticketHut($first);
        $this->damage($sets);
        $this->care($sets);
        $this->emptyTheRoster($host, $today);
        $this->newHosts();
        $notice = $this->inTheBin($host, $today);
        foreach (['boathouse-files', 'berth-kiosk'] as $name) {
            $this->kaiseki('host-add', $name, '--folder='.Instance::path("hosts/$name/files"));
        }
        foreach (Workload::query()->orderBy('id')->get() as $workload) {
            TextIndex::bringUpToDate($workload);
        }

        return $notice;
    }

    /** @return array<int, string> day => name of its set */
    private function sixWeeks(FileHost $host, DateTimeImmutable $first): array
    {
        $host->setClock(Instant::of($first->modify('01:15')));
        $files = new SorrelSoundFiles($host->root());
        $files->begin($first);
        $this->kaiseki('protect', 'boathouse-files', "--source={$host->root()}", '--level=incr');
        Workload::query()
            ->where('name', 'boathouse-files')
            ->update(['group' => 'crew office', 'zone' => 'Europe/Oslo', 'site' => 'boathouse']);
        $sets = [];
        for ($number = 1; $number <= self::DAYS; $number++) {
            $day = $first->modify("+$number days");
            $files->live($day->modify('-1 day'), $number);
            $this->misfortunes($files, $host, $number, $day);
            $host->setClock(Instant::of($day->modify('01:15')));
            $level = match ($day->format('N')) {
                '7' => 'full',
                '3' => 'diff',
                default => 'incr',
            };
            $sets[$number] = $this->kaiseki('protect', 'boathouse-files', "--level=$level")['set'];
            $this->copies($sets[$number], $level, $number);
            $this->output->write("\r  day $number of ".self::DAYS);
        }
        $this->newLine();

        return $sets;
    }

    private function copies(string $set, string $level, int $day): void
    {
        $to = array_keys(
            array_filter([
                'pier-nine' => $level !== 'incr' || $day > self::DAYS - 6,
                'hill-vault' => $level === 'full' || $day <= self::MOVED_OUT,
                'pier-nine-objects' => $level === 'full',
            ]),
        );
        foreach ($to as $store) {
            $this->kaiseki('copy', 'boathouse-files', $set, "--to=$store");
        }
    }

    private function stores(): void
    {
        $this->kaiseki('store-add', 'boathouse', Instance::folder('stores/boathouse'), '--site=boathouse', '--read-mb-s=120');
        $this->kaiseki(
            'store-add',
            'pier-nine',
            Instance::folder('stores/pier-nine'),
            '--site=pier-nine',
            '--read-mb-s=120',
            '--lane-mb-s=1.5',
        );
        $this->kaiseki(
            'store-add',
            'pier-nine-objects',
            Instance::folder('stores/pier-nine-objects'),
            '--kind=object',
            '--site=pier-nine',
            '--read-mb-s=60',
        );
        $this->kaiseki(
            'store-add',
            'hill-vault',
            Instance::folder('stores/hill-vault'),
            '--kind=tape',
            '--site=hill-vault',
            '--read-mb-s=80',
            '--setup-s=3',
            '--wind-mb-s=400',
            '--lane-mb-s=40',
            '--cartridges=HV0001,HV0002,HV0003,HV0004,HV0005,HV0006',
            '--slots=4',
            '--capacity-mb=11',
        );
    }

    /** The old till computer: protected, rebuilt half-way, then scrapped. What its sets hold stays. */
    private function ticketHut(DateTimeImmutable $first): void
    {
        $host = new FileHost(Instance::folder('hosts/ticket-hut'));
        for ($number = 0; $number < 18; $number++) {
            $night = $first->modify('+'.($number + 8).' days')->modify('22:40');
            $host->setClock(Instant::of($night));
            if ($number === 10) {
                (new Process(['rm', '-rf', "{$host->root()}/till"]))->mustRun();
            }
            foreach (['closing', 'vouchers'] as $sheet) {
                if (! is_dir("{$host->root()}/till/$sheet")) {
                    mkdir("{$host->root()}/till/$sheet", 0755, true);
                }
                $file = sprintf('%s/till/%s/%s.csv', $host->root(), $sheet, $night->format('Y-m-d'));
                file_put_contents(
                    $file,
                    "ferry;fare;count\n".
                        implode(
                            "\n",
                            array_map(
                                fn (int $i): string => sprintf(
                                    '%s;%d;%d',
                                    ['Dunlin', 'Knot', 'Turnstone'][$i % 3],
                                    40 + $i,
                                    ($number * 7 + $i * 3) % 50,
                                ),
                                range(1, 40),
                            ),
                        ).
                        "\n",
                );
                touch($file, $night->getTimestamp() - 600);
            }
            $this->kaiseki(
                'protect',
                'ticket-hut',
                ...$number === 0 ? ["--source={$host->root()}"] : [],
                ...$number === 10 ? ['--new-history'] : [],
                ...['--level='.($number % 6 === 0 ? 'full' : 'incr')],
            );
        }
        Workload::query()
            ->where('name', 'ticket-hut')
            ->update(['group' => 'crew office', 'zone' => 'Europe/Oslo', 'site' => 'boathouse']);
        (new Process(['rm', '-rf', $host->root()]))->mustRun();
    }

    private function misfortunes(SorrelSoundFiles $files, FileHost $host, int $number, DateTimeImmutable $day): void
    {
        match ($number) {
            20 => $files->scramble($day),
            21 => $files->unscramble($day),
            39 => (new Process(['rm', '-rf', $host->root().'/engine-room/Dunlin']))->mustRun(),
            default => null,
        };
    }

    /**
     * What was settled for the files: when sets are made, what is kept, what was promised; and a few things that were done by hand.
     *
     * @param  array<int, string>  $sets
     */
    private function care(array $sets): void
    {
        $this->kaiseki(
            'schedule',
            'boathouse-files',
            '--cron=15 3 * * 0=full',
            '--cron=15 3 * * 3=diff',
            '--cron=15 3 * * 1,2,4-6=incr',
            '--zone=Europe/Oslo',
            '--hours=22:00-06:00',
            '--copy-to=pier-nine',
        );
        $this->kaiseki('keep', 'boathouse-files', 'last=7 daily=21 weekly=8', '--store=boathouse');
        $this->kaiseki('keep', 'boathouse-files', 'weekly=12 monthly=6');
        $this->kaiseki('check-plan', 'boathouse', '--mb=40', '--from=02:00', '--until=05:30', '--zone=Europe/Oslo');
        Workload::query()
            ->where('name', 'boathouse-files')
            ->update(['rpo_s' => 26 * 3600, 'rto_s' => 1800, 'needs_outside_copy' => true]);
        Workload::query()
            ->where('name', 'ticket-hut')
            ->update(['rpo_s' => 7 * 86400]);
        $this->kaiseki('check', 'boathouse-files', '--store=pier-nine-objects');
        $this->kaiseki('check', 'boathouse-files', "--set={$sets[self::DAYS]}");
        $this->kaiseki('hold', 'boathouse-files', $sets[9], '--reason=The insurers ask for the week of the collision.');
    }

    /** The sets were made in the nights that they are of, by their schedules. */
    private function writeDownMakings(): void
    {
        Making::query()->delete();
        foreach (BackupSet::query()->with('copies')->whereNotNull('made_in_s')->orderBy('captured_at')->get() as $set) {
            Making::query()->create([
                'workload_id' => $set->workload_id,
                'store_id' => $set->copies->firstOrFail()->store_id,
                'level' => $set->level,
                'why' => 'by schedule',
                'state' => 'done',
                'set_name' => $set->name,
                'entries' => $set->entries,
                'started_at' => $set->captured_at,
                'ended_at' => $set->captured_at->addMilliseconds((int) round(1000 * (float) $set->made_in_s)),
                'created_at' => $set->captured_at,
            ]);
        }
    }

    /** What lay where at the end of each day, as far as it is still there. */
    private function writeDownUse(DateTimeImmutable $today): void
    {
        for ($days = self::DAYS; $days > 0; $days--) {
            $day = $today->modify("-$days days")->format('Y-m-d');
            DB::table('held_days')->insertUsing(
                ['day', 'store_id', 'workload_id', 'copies', 'bytes'],
                DB::table('copies')
                    ->join('sets', 'sets.id', '=', 'copies.set_id')
                    ->where('captured_at', '<', "$day 23:59:59")
                    ->groupBy('store_id', 'copies.workload_id')
                    ->selectRaw('?, store_id, copies.workload_id, COUNT(*), SUM(copies.bytes)', [$day]),
            );
        }
    }

    /** Two machines that somebody set up and nobody told the desk about. */
    private function newHosts(): void
    {
        foreach (['berth-kiosk' => 'piers', 'galley-tablet' => 'crew office'] as $name => $group) {
            $host = new FileHost(Instance::folder("hosts/$name"));
            $host->setClock(Instant::of(new DateTimeImmutable));
            $host->setGroup($group);
            file_put_contents("{$host->root()}/settings.ini", "name=$name\n");
        }
    }

    /**
     * A notice that somebody deleted by mistake yesterday: it still lies where their file manager put it.
     *
     * @return string where it was
     */
    private function inTheBin(FileHost $host, DateTimeImmutable $today): string
    {
        $notices = glob($host->root().'/notices/*/*.txt') ?: throw DemoFailed::because('there are no notices.');
        $notice = (string) end($notices);
        foreach (['files', 'info'] as $folder) {
            mkdir("{$host->root()}/.Trash-1000/$folder", 0700, true);
        }
        $name = basename($notice);
        $path = substr($notice, strlen($host->root()) + 1);
        rename($notice, "{$host->root()}/.Trash-1000/files/$name");
        file_put_contents(
            "{$host->root()}/.Trash-1000/info/$name.trashinfo",
            '[Trash Info]'.
                "\nPath=".
                implode('/', array_map(rawurlencode(...), explode('/', $path))).
                "\nDeletionDate=".
                $today->modify('-1 day')->format('Y-m-d').
                "T16:20:00\n",
        );

        return $path;
    }

    /** @param  array<int, string>  $sets */
    private function damage(array $sets): void
    {
        $folder = Instance::path('stores/boathouse/boathouse-files');
        // Ten nights ago the disk was full for a moment, and nobody noticed that a set was cut short.
        $night = self::DAYS - 10;
        while (! str_contains($sets[$night], '.incr.')) {
            $night--;
        }
        $file = fopen("$folder/{$sets[$night]}.tar.gz", 'r+b') ?: throw DemoFailed::because('the set to be damaged is not there.');
        ftruncate($file, intdiv((int) fstat($file)['size'], 2));
        fclose($file);
        // The sets of the first days were cleared from the disk to make room; their cartridges went to the shelf.
        $moved = array_filter($sets, fn (int $number): bool => $number <= self::MOVED_OUT, ARRAY_FILTER_USE_KEY);
        foreach ($moved as $set) {
            unlink("$folder/$set.tar.gz");
        }
        $segments = Copy::query()
            ->whereRelation('store', 'name', 'hill-vault')
            ->whereRelation('set', fn (Builder $query) => $query->whereIn('name', $moved))
            ->get()
            ->flatMap(fn (Copy $copy): array => $copy->segments ?? []);
        foreach ($segments->pluck('label')->unique() as $label) {
            $this->kaiseki('cartridge', 'hill-vault', $label, '--out');
        }
        // And a full never arrived at Pier Nine, whatever the list says: not the one of last night, of which all is right.
        foreach (array_slice(array_reverse($sets), 1) as $set) {
            if (str_contains($set, '.full.') && is_file($gone = Instance::path("stores/pier-nine/boathouse-files/$set.tar.gz"))) {
                unlink($gone);
                break;
            }
        }
    }

    private function emptyTheRoster(FileHost $host, DateTimeImmutable $today): void
    {
        $roster = $host->root().'/'.SorrelSoundFiles::rosterPath($today);
        file_put_contents($roster, '');
        touch($roster, $today->modify('06:52')->getTimestamp());
        touch(dirname($roster), $today->modify('06:52')->getTimestamp());
        $host->setClock(Instant::of(new DateTimeImmutable));
    }

    /**
     * What bin/kaiseki does, in this process: to start one for each of hundreds of commands took most of the time.
     *
     * @return array<mixed>
     */
    private function kaiseki(string ...$arguments): array
    {
        $before = umask(0077);
        $terminal = new Kaiseki;
        $terminal->setAutoExit(false);
        $said = new BufferedOutput;
        $code = $terminal->run(new ArgvInput(['kaiseki', ...$arguments, '--json']), $said);
        umask($before);
        $text = $said->fetch();
        if ($code !== 0) {
            throw DemoFailed::because('bin/kaiseki '.implode(' ', $arguments).": $text");
        }

        return (array) json_decode($text, true);
    }
}
