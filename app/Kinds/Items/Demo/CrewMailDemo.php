<?php

declare(strict_types=1);

namespace App\Kinds\Items\Demo;

use App\Demo\DemoFailed;
use App\Instance;
use App\Kinds\Items\Catalog\ItemWords;
use App\Kinds\Items\Server\MailServer as KnownServer;
use App\Models\Workload;
use Closure;
use DateTimeImmutable;
use Kaiseki\Core\Instant;
use Kaiseki\StandIns\FileHost;
use Kaiseki\StandIns\MailServer;
use Kaiseki\StandIns\SorrelSoundCalendars;
use Kaiseki\StandIns\SorrelSoundMail;

/** The demo's mailboxes, calendars and contacts: six weeks of them, protected each night as they lie, and the servers that serve them. */
final class CrewMailDemo
{
    private const NAME = 'crew-mail';

    /** @param  Closure(string...): array<mixed>  $kaiseki */
    public function make(DateTimeImmutable $today, int $days, Closure $kaiseki): void
    {
        if (! is_file(Instance::path('mail.port')) || ! is_file(Instance::path('dav.port'))) {
            return; // whoever started it found no servers of mail and calendars here
        }
        $host = new FileHost(Instance::folder('mail'));
        is_dir($host->root()) || mkdir($host->root(), 0700);
        $first = $today->modify("-$days days");
        $host->setClock(Instant::of($first->modify('01:40')));
        $mail = new SorrelSoundMail($host->root());
        $mail->begin($first);
        $calendars = new SorrelSoundCalendars($host->root());
        $calendars->begin($first);
        $kaiseki('protect', self::NAME, "--mail={$host->root()}", '--level=full');
        Workload::query()->where('name', self::NAME)->update([
            'group' => 'crew office', 'zone' => 'Europe/Oslo', 'site' => 'boathouse', 'rpo_s' => 26 * 3600, 'rto_s' => 3600,
        ]);
        for ($number = 1; $number <= $days; $number++) {
            $day = $first->modify("+$number days");
            $mail->live($day->modify('-1 day'), $number);
            $calendars->live($day->modify('-1 day'), $number);
            $host->setClock(Instant::of($day->modify('01:40')));
            $kaiseki('protect', self::NAME, '--level='.($day->format('N') === '7' ? 'full' : 'incr'));
        }
        unlink("{$host->folder}/clock"); // from now on it lives with this machine
        $this->serve();
        $kaiseki('schedule', self::NAME, '--cron=40 2 * * 0=full', '--cron=40 2 * * 1-6=incr', '--zone=Europe/Oslo');
        $kaiseki('own-items', 'allow', self::NAME);
        $kaiseki('rights', 'give', 'mail:'.self::NAME, '--group=crew office', '--may=read,write,tend');
    }

    /** The server is begun with the others; what it is known by is written down now. */
    private function serve(): void
    {
        $workload = Workload::query()->where('name', self::NAME)->first() ?? throw DemoFailed::because('there are no mailboxes.');
        ItemWords::bringUpToDate($workload);
        $port = (int) file_get_contents(Instance::path('mail.port'));
        $server = MailServer::in(Instance::path('mail'), $port);
        foreach (array_keys(SorrelSoundMail::PEOPLE) as $person) {
            if ($person !== SorrelSoundMail::LEAVER) {
                $server->mailbox(SorrelSoundMail::address($person), bin2hex(random_bytes(12)));
            }
        }
        KnownServer::query()->updateOrCreate(['name' => self::NAME], [
            'imap' => "imap://127.0.0.1:$port",
            'dav' => 'http://127.0.0.1:'.(int) file_get_contents(Instance::path('dav.port')).'/',
            'user' => MailServer::MASTER,
            'password' => $server->masterPassword(),
            'naming' => '{mailbox}',
            'site' => 'boathouse',
        ])->holds($workload);
    }
}
