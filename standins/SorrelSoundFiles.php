<?php

declare(strict_types=1);

namespace Kaiseki\StandIns;

use DateTimeImmutable;
use Random\Engine\Mt19937;
use Random\Randomizer;
use Symfony\Component\Process\Process;
use ZipArchive;

/** The life of the file host of Sorrel Sound Ferries: what its people write, move and delete, day by day, from a seed. */
final class SorrelSoundFiles
{
    public const VESSELS = ['Tern', 'Plover', 'Dunlin', 'Whimbrel', 'Sanderling'];

    private const HARBOURS = ['Boathouse', 'Pier Nine', 'Gull Ness', 'Low Skerry', 'Sorrel Head', 'Westwick'];

    private const FAMILY = [
        'Aske',
        'Brandt',
        'Corrin',
        'Dahl',
        'Eriksen',
        'Fenn',
        'Gale',
        'Holm',
        'Iversen',
        'Joss',
        'Kell',
        'Lund',
        'Marsh',
        'Nyland',
        'Okoro',
        'Pell',
        'Quist',
        'Reed',
        'Strand',
        'Thorne',
        'Ulrik',
        'Varga',
        'Wick',
        'Yarrow',
    ];

    private const GIVEN = [
        'Ada',
        'Bo',
        'Cleo',
        'Dag',
        'Elin',
        'Finn',
        'Greta',
        'Hugo',
        'Ines',
        'Jon',
        'Kaja',
        'Leif',
        'Milo',
        'Nora',
        'Oona',
        'Per',
        'Ragna',
        'Sven',
        'Tomas',
        'Una',
        'Vera',
        'Willem',
    ];

    private readonly Randomizer $random;

    public function __construct(private readonly string $root, int $seed = 1861)
    {
        $this->random = new Randomizer(new Mt19937($seed));
    }

    /** Everything that had piled up before the first day. */
    public function begin(DateTimeImmutable $day): void
    {
        for ($back = 380; $back > 0; $back--) {
            $then = $day->modify("-$back days");
            $this->engineLogs($then);
            $this->manifests($then, 3);
            if ($then->format('N') === '2') {
                $this->rosters($then);
            }
        }
        foreach (range(1, 120) as $number) {
            $this->notice($day->modify('-'.(121 - $number).' days'), $number);
        }
        foreach (['safety', 'ticketing', 'galley', 'moorings'] as $topic) {
            foreach (range(1, 12) as $chapter) {
                $this->write(
                    "handbooks/$topic/chapter-".sprintf('%02d', $chapter).'.txt',
                    $this->prose(60),
                    $day->modify('-'.$chapter * 9 .' days 11:20'),
                );
            }
        }
        $this->write('crew/contacts.csv', $this->people(), $day->modify('-30 days 09:12'));
        $this->linkAndMode($day);
        clearstatcache(true);
        $this->settleFolders();
    }

    /** One working day. */
    public function live(DateTimeImmutable $day, int $number): void
    {
        $this->engineLogs($day);
        $this->manifests($day, 6);
        if ($day->format('N') === '2') {
            $this->rosters($day);
        }
        $this->write('notices/today.txt', $this->prose(4), $day->modify('05:50'));
        if ($this->random->getInt(0, 1) === 1) {
            $this->notice($day, 120 + $number);
        }
        foreach (range(1, $this->random->getInt(2, 6)) as $_) {
            $this->revise($day);
        }
        if ($number % 5 === 2) {
            $this->deleteSome();
        }
        if ($number % 9 === 4) {
            $this->moveAFolder($number);
        }
        if ($number % 7 === 3) {
            $this->write('crew/contacts.csv', $this->peopleWithChanges($number), $day->modify('16:05'));
        }
        clearstatcache(true);
        $this->settleFolders();
    }

    /** Files are overwritten with noise, and given another ending. */
    public function scramble(DateTimeImmutable $day): int
    {
        $scrambled = 0;
        foreach ($this->files('handbooks') as $path) {
            file_put_contents($path, $this->random->getBytes((int) filesize($path) ?: 500));
            touch($path, $day->modify('02:31')->getTimestamp());
            rename($path, "$path.zzx");
            $scrambled++;
        }
        clearstatcache(true);
        $this->settleFolders();

        return $scrambled;
    }

    /** The day after: the handbooks are typed in again from paper. */
    public function unscramble(DateTimeImmutable $day): void
    {
        foreach ($this->files('handbooks') as $path) {
            if (str_ends_with($path, '.zzx')) {
                file_put_contents($path, $this->prose(60));
                touch($path, $day->modify('17:45')->getTimestamp());
                rename($path, substr($path, 0, -4));
            }
        }
        clearstatcache(true);
        $this->settleFolders();
    }

    public static function rosterPath(DateTimeImmutable $day): string
    {
        return 'crew/rosters/'.$day->format('o').'/week-'.$day->format('W').'-crew.csv';
    }

    private function engineLogs(DateTimeImmutable $day): void
    {
        foreach (self::VESSELS as $vessel) {
            $lines = "time,engine,rpm,oil bar,coolant C,exhaust C,remark\n";
            foreach (range(6, 22) as $hour) {
                foreach (['port', 'starboard'] as $engine) {
                    $lines .= sprintf(
                        "%02d:%02d,%s,%d,%.1f,%d,%d,%s\n",
                        $hour,
                        $this->random->getInt(0, 59),
                        $engine,
                        $this->random->getInt(640, 1480),
                        $this->random->getInt(38, 52) / 10,
                        $this->random->getInt(71, 88),
                        $this->random->getInt(290, 410),
                        $this->pick(['', '', '', '', 'filter changed', 'topped up', 'vibration at 1200']),
                    );
                }
            }
            $this->write(
                "engine-room/$vessel/".$day->format('Y/m').'/'.$day->format('Y-m-d').'.csv',
                $lines,
                $day->modify('22:40'),
            );
        }
    }

    private function manifests(DateTimeImmutable $day, int $sailings): void
    {
        foreach (range(1, $sailings) as $sailing) {
            $lines = "berth,kind,name,plate,kg\n";
            foreach (range(1, $this->random->getInt(20, 90)) as $berth) {
                $lines .=
                    "$berth,".
                    $this->pick(['car', 'car', 'van', 'foot', 'foot', 'cycle', 'lorry']).
                    ','.
                    $this->person().
                    ',SS '.
                    $this->random->getInt(1000, 9999).
                    ','.
                    $this->random->getInt(60, 18000).
                    "\n";
            }
            $this->write(
                'sailings/'.
                    $day->format('Y/m/d').
                    '/'.
                    sprintf('%02d15 %s to %s.csv', 5 + $sailing * 2, $this->pick(self::HARBOURS), $this->pick(self::HARBOURS)),
                $lines,
                $day->modify(sprintf('%02d:10', 5 + $sailing * 2)),
            );
        }
    }

    /** Written on a Tuesday for the week that begins on the next Monday. */
    private function rosters(DateTimeImmutable $tuesday): void
    {
        $day = $tuesday->modify('+6 days');
        $lines = "vessel,day,shift,master,mate,engineer,deck 1,deck 2\n";
        foreach (self::VESSELS as $vessel) {
            foreach (['Mon', 'Tue', 'Wed', 'Thu', 'Fri', 'Sat', 'Sun'] as $weekday) {
                foreach (['early', 'late'] as $shift) {
                    $lines .= "$vessel,$weekday,$shift,".implode(',', array_map(fn (): string => $this->person(), range(1, 5)))."\n";
                }
            }
        }
        $this->write(self::rosterPath($day), $lines, $tuesday->modify('14:20'));
        $sheet =
            '<?xml version="1.0" encoding="UTF-8"?><office:document-content '.
            'xmlns:office="urn:oasis:names:tc:opendocument:xmlns:office:1.0"><office:body>'.
            htmlspecialchars($lines).
            '</office:body></office:document-content>';
        $this->zip(
            'crew/rosters/'.$day->format('o').'/week-'.$day->format('W').'-crew.ods',
            ['mimetype' => 'application/vnd.oasis.opendocument.spreadsheet', 'content.xml' => $sheet],
            $tuesday->modify('14:24'),
        );
    }

    private function notice(DateTimeImmutable $day, int $number): void
    {
        $this->write(
            'notices/'.
                $day->format('Y').
                sprintf(
                    '/notice %03d %s.txt',
                    $number,
                    $this->pick(['fog', 'late sailings', 'berth closed', 'new fares', 'lost property', 'crew meeting', 'drill']),
                ),
            $this->prose(6),
            $day->modify('09:30'),
        );
    }

    private function revise(DateTimeImmutable $day): void
    {
        $files = $this->files($this->pick(['notices', 'crew/rosters', 'sailings', 'handbooks']));
        if ($files === []) {
            return;
        }
        $path = $this->pick($files);
        if (str_ends_with($path, '.csv') || str_ends_with($path, '.txt')) {
            file_put_contents($path, "corrected {$day->format('Y-m-d')} by {$this->person()}\n", FILE_APPEND);
            touch($path, $day->modify(sprintf('%02d:%02d', $this->random->getInt(7, 18), $this->random->getInt(0, 59)))->getTimestamp());
        }
    }

    private function deleteSome(): void
    {
        $files = $this->files('notices');
        foreach (range(1, 3) as $_) {
            $path = $this->pick($files);
            if (is_file($path)) {
                unlink($path);
            }
        }
    }

    private function moveAFolder(int $number): void
    {
        $folders = glob("{$this->root}/sailings/*/*/*", GLOB_ONLYDIR) ?: [];
        if ($folders !== []) {
            $from = $this->pick($folders);
            $to = "{$this->root}/sailings/archive/".str_replace('/', '-', substr($from, strlen("{$this->root}/sailings/")));
            if (! is_dir(dirname($to))) {
                mkdir(dirname($to), 0755, true);
            }
            rename($from, $to);
        }
    }

    /** A folder is as old as the newest thing in it: the host lives by its own clock. */
    private function settleFolders(string $folder = ''): int
    {
        $newest = 0;
        foreach (array_diff(scandir("{$this->root}/$folder") ?: [], ['.', '..']) as $name) {
            $path = "{$this->root}/$folder/$name";
            $newest = max(
                $newest,
                is_dir($path) && ! is_link($path) ? $this->settleFolders("$folder/$name") : (int) (@lstat($path)['mtime'] ?? 0),
            );
        }
        if ($newest > 0) {
            touch("{$this->root}/$folder", $newest);
        }

        return $newest;
    }

    private function linkAndMode(DateTimeImmutable $day): void
    {
        symlink('rosters', "{$this->root}/crew/current");
        (new Process([
            'touch',
            '--no-dereference',
            '--date=@'.$day->modify('-90 days 10:00')->getTimestamp(),
            "{$this->root}/crew/current",
        ]))->mustRun();
        link("{$this->root}/handbooks/safety/chapter-01.txt", "{$this->root}/notices/read me first.txt");
        chmod("{$this->root}/crew/contacts.csv", 0640);
    }

    private function people(): string
    {
        $lines = "name,role,telephone\n";
        foreach (range(1, 80) as $_) {
            $lines .=
                $this->person().
                ','.
                $this->pick(['master', 'mate', 'engineer', 'deck', 'galley', 'office']).
                ',+47 000 '.
                $this->random->getInt(10000, 99999).
                "\n";
        }

        return $lines;
    }

    /** The list of contacts as it is, with a few changes: one left, one came, one moved to other work, two have other numbers. */
    private function peopleWithChanges(int $number): string
    {
        $others = explode("\n", trim($this->people()));
        $rows = explode("\n", trim((string) @file_get_contents("{$this->root}/crew/contacts.csv")));
        if (count($rows) < 20) {
            return implode("\n", $others)."\n";
        }
        $at = fn (int $step): int => 1 + ($number * 11 + $step * 17) % (count($rows) - 1);
        [, , $telephone] = explode(',', $others[1]);
        foreach ([$at(0), $at(1)] as $i => $row) {
            $rows[$row] = preg_replace('/,[^,]*$/', ','.substr($telephone, 0, -1).$i, $rows[$row]) ?? $rows[$row];
        }
        [, $role] = explode(',', $others[2]);
        $rows[$at(2)] = preg_replace('/,[^,]*,/', ",$role,", $rows[$at(2)]) ?? $rows[$at(2)];
        unset($rows[$at(3)]);

        return implode("\n", [...$rows, $others[3]])."\n";
    }

    private function prose(int $sentences): string
    {
        $text = '';
        foreach (range(1, $sentences) as $i) {
            $text .= sprintf(
                '%s %s the %s before the %s sailing to %s. ',
                $this->pick(['The mate', 'Deck crew', 'The galley', 'The office', 'All masters']),
                $this->pick(['checks', 'signs for', 'clears', 'reports', 'counts']),
                $this->pick(['life rafts', 'ramp', 'cash box', 'car deck', 'moorings', 'fire doors']),
                $this->pick(['first', 'noon', 'last', 'next']),
                $this->pick(self::HARBOURS),
            );
            $text .= $i % 4 === 0 ? "\n\n" : '';
        }

        return $text;
    }

    private function person(): string
    {
        return $this->pick(self::GIVEN).' '.$this->pick(self::FAMILY);
    }

    private function write(string $path, string $content, DateTimeImmutable $at): void
    {
        $full = $this->ready($path);
        file_put_contents($full, $content);
        touch($full, $at->getTimestamp());
    }

    /** @param  array<string, string>  $members */
    private function zip(string $path, array $members, DateTimeImmutable $at): void
    {
        $full = $this->ready($path);
        $zip = new ZipArchive;
        $zip->open($full, ZipArchive::CREATE | ZipArchive::OVERWRITE);
        foreach ($members as $name => $content) {
            $zip->addFromString($name, $content);
            $zip->setMtimeName($name, $at->getTimestamp());
        }
        $zip->close();
        touch($full, $at->getTimestamp());
    }

    private function ready(string $path): string
    {
        $full = "{$this->root}/$path";
        if (! is_dir(dirname($full))) {
            mkdir(dirname($full), 0755, true);
        }

        return $full;
    }

    /** @return list<string> */
    private function files(string $folder): array
    {
        if (! is_dir("{$this->root}/$folder")) {
            return [];
        }
        $files = [];
        $below = new \RecursiveIteratorIterator(new \RecursiveDirectoryIterator("{$this->root}/$folder", \FilesystemIterator::SKIP_DOTS));
        foreach ($below as $file) {
            assert($file instanceof \SplFileInfo);
            if ($file->isFile() && ! $file->isLink()) {
                $files[] = $file->getPathname();
            }
        }
        sort($files, SORT_STRING);

        return $files;
    }

    /**
     * @template T
     *
     * @param  non-empty-list<T>  $of
     * @return T
     */
    private function pick(array $of): mixed
    {
        return $of[$this->random->getInt(0, count($of) - 1)];
    }
}
