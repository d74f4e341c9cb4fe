<?php

declare(strict_types=1);

namespace App\Kinds\Items\Terminal;

use App\Console\CommandLine\KaisekiCommand;
use App\Console\CommandLine\NoServer;
use App\Hosts\HostCommand;
use App\Kinds\Items\Items;
use App\Kinds\Items\Server\MailServer;
use App\Models\Workload;
use InvalidArgumentException;
use Kaiseki\Core\Mail\Dav\DavAddress;
use Kaiseki\Core\Mail\Dav\DavFailure;
use Kaiseki\Core\Mail\Imap\ImapAddress;
use Kaiseki\Core\Mail\Imap\ImapFailure;
use Symfony\Component\Console\Input\InputArgument;
use Symfony\Component\Console\Input\InputInterface;
use Symfony\Component\Console\Input\InputOption;

/** `mail-server`: those that items are brought back to. */
final class MailServerCommand extends KaisekiCommand
{
    protected function configure(): void
    {
        parent::configure();
        $this->setName('mail-server')
            ->setDescription('Makes a mail server known, and tries it out; or lists those that are known')
            ->addArgument('what', InputArgument::REQUIRED, 'add, or list')
            ->addArgument('server', InputArgument::OPTIONAL, 'its name; a workload may bear the same')
            ->addOption(
                'imap',
                null,
                InputOption::VALUE_REQUIRED,
                'imaps://HOST, with :PORT and #FINGERPRINT if wanted; imap:// on this machine only',
            )
            ->addOption(
                'dav',
                null,
                InputOption::VALUE_REQUIRED,
                'where calendars and contacts are: https://HOST/PATH/{mailbox}/; http:// on this machine only',
            )
            ->addOption(
                'user',
                null,
                InputOption::VALUE_REQUIRED,
                'an account that may open every mailbox; its password comes from KAISEKI_MAIL_PASSWORD',
            )
            ->addOption(
                'naming',
                null,
                InputOption::VALUE_REQUIRED,
                'its mailboxes: {mailbox} is the name in the sets (so by default), {name} its last part, {above} the one before',
            )
            ->addOption('try', null, InputOption::VALUE_REQUIRED, 'a mailbox that is opened to try it out')
            ->addOption('holds', null, InputOption::VALUE_REQUIRED, 'the workload whose mailboxes are on it (default: the one of its name)')
            ->addOption('make', null, InputOption::VALUE_REQUIRED,
                'a command that makes a mailbox there, whose name it reads: a JSON list of arguments; "" for none')
            ->addOption('unmake', null, InputOption::VALUE_REQUIRED, 'a command that takes such a mailbox away again, likewise')
            ->addOption('site', null, InputOption::VALUE_REQUIRED, 'where it is (default: boathouse)');
    }

    protected function carryOut(InputInterface $input): int
    {
        match ($input->getArgument('what')) {
            'list' => $this->list(),
            'add' => $this->add($input),
            default => throw new InvalidArgumentException('It is "mail-server add NAME" or "mail-server list".'),
        };

        return self::DONE;
    }

    protected function changes(InputInterface $input): bool
    {
        return $input->getArgument('what') === 'add';
    }

    private function list(): void
    {
        $servers = MailServer::query()->orderBy('name')->get();
        $this->answer(
            [
                'servers' => $servers->map(fn (MailServer $server): array => [
                    'server' => $server->name,
                    'imap' => $server->imap === '' ? null : ImapAddress::parse($server->imap)->words(),
                    'dav' => $server->dav === '' ? null : DavAddress::parse($server->dav)->words(),
                    'user' => $server->user,
                    'naming' => $server->naming,
                    'makes' => $server->makes !== null,
                    'holds' => array_map(fn (Workload $of): string => $of->name, $server->originals()),
                ])->all(),
            ],
            fn (): array => $servers->isEmpty()
                ? ['No mail server is known yet: kaiseki mail-server add NAME --imap= --dav= --user=']
                : $servers->map(fn (MailServer $server): string => "{$server->name}  {$server->whereabouts()}")->all(),
        );
    }

    private function add(InputInterface $input): void
    {
        $name = (string) ($input->getArgument('server') ?? throw new InvalidArgumentException('Give the server a name.'));
        if (preg_match('/^[A-Za-z0-9][A-Za-z0-9._-]{0,99}$/D', $name) !== 1) {
            throw new InvalidArgumentException(
                'The name of a server has letters, digits, dots, dashes and underscores, and at most 100 of them.',
            );
        }
        $first = ['imap' => '', 'dav' => '', 'naming' => '{mailbox}', 'site' => 'boathouse'];
        $server = MailServer::query()->firstOrNew(['name' => $name], $first);
        $naming = (string) ($input->getOption('naming') ?? $server->naming);
        if (preg_match('/^(?=.*\{(mailbox|name)\})[\x21-\x7e]{1,200}$/D', $naming) !== 1) {
            throw new InvalidArgumentException('--naming holds {mailbox} or {name}, and no spaces: "{name}@mail.example".');
        }
        $said = $this->addresses($input, $server);
        $password = getenv('KAISEKI_MAIL_PASSWORD');
        if ($password === false) {
            throw new InvalidArgumentException('Give its password in KAISEKI_MAIL_PASSWORD.');
        }
        $server->fill($said + [
            'user' => (string) ($input->getOption('user') ?? $server->user ??
                throw new InvalidArgumentException('Say with --user which account to use.')),
            'password' => $password,
            'naming' => $naming,
            'site' => (string) ($input->getOption('site') ?? $server->site),
            'makes' => self::program($input->getOption('make'), $server->makes),
            'unmakes' => self::program($input->getOption('unmake'), $server->unmakes),
        ]);
        $tried = $this->tryOut($server, (string) $input->getOption('try'));
        $server->save();
        $holds = $input->getOption('holds');
        $workload = Workload::query()->where('name', $holds ?? $name)->where('kind', Items::NAME)->first();
        if ($holds !== null && $workload === null) {
            throw new InvalidArgumentException("There is no workload \"$holds\" with items.");
        }
        if ($workload !== null) {
            $server->holds($workload);
        }
        $this->answer(
            ['server' => $server->name, 'works' => $tried !== '', 'tried' => $tried, 'holds' => $workload?->name],
            fn (): array => [
                $tried === '' ? "$name is known. Nothing was tried: name a mailbox with --try." : "$name opens the mailbox $tried.",
            ],
        );
    }

    /**
     * @param  list<string>|null  $known
     * @return list<string>|null
     */
    private static function program(?string $said, ?array $known): ?array
    {
        return match ($said) {
            null => $known,
            '' => null,
            default => HostCommand::parse($said),
        };
    }

    /** @return array{imap: string, dav: string} as they are said, else as they were */
    private function addresses(InputInterface $input, MailServer $known): array
    {
        $imap = (string) ($input->getOption('imap') ?? $known->imap);
        $dav = (string) ($input->getOption('dav') ?? $known->dav);
        if ($imap === '' && $dav === '') {
            throw new InvalidArgumentException('Say with --imap where its mail is, and with --dav where its calendars and contacts are.');
        }
        $imap === '' || ImapAddress::parse($imap);
        $dav === '' || DavAddress::parse($dav);

        return ['imap' => $imap, 'dav' => $dav];
    }

    /** @return string the mailbox that was opened; '' if none was named */
    private function tryOut(MailServer $server, string $mailbox): string
    {
        if ($mailbox !== '') {
            try {
                if ($server->imap !== '') {
                    $open = $server->open($mailbox);
                    $open->folders();
                    $open->close();
                }
                $server->dav === '' || $server->openDav($mailbox);
            } catch (DavFailure|ImapFailure $failure) {
                throw new NoServer($failure->getMessage());
            }
        }

        return $mailbox;
    }
}
