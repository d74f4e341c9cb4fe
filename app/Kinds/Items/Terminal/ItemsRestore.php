<?php

declare(strict_types=1);

namespace App\Kinds\Items\Terminal;

use App\Console\CommandLine\KaisekiCommand;
use App\Kinds\Items\Catalog\ItemWords;
use App\Kinds\Items\Erased\ErasedList;
use App\Kinds\Items\Order\CannotBringItems;
use App\Kinds\Items\Order\ChosenItem;
use App\Kinds\Items\Order\ItemConflict;
use App\Kinds\Items\Order\ItemCount;
use App\Kinds\Items\Order\ItemForm;
use App\Kinds\Items\Order\ItemSelection;
use App\Kinds\Items\Order\ItemsOrder;
use App\Kinds\Items\Run\ItemsCarrier;
use App\Kinds\Items\Server\MailServer;
use App\Kinds\Items\Server\TouchedMailboxes;
use App\Kinds\Talk;
use App\Kinds\Told;
use App\Models\BackupSet;
use App\Models\Run;
use App\Models\Workload;
use App\Trees\Run\Targets;
use App\Words;
use InvalidArgumentException;
use Kaiseki\Core\Mail\ItemQuery;
use Kaiseki\Core\Proof\CheckLine;
use Symfony\Component\Console\Command\Command;
use Symfony\Component\Console\Input\InputInterface;
use Symfony\Component\Console\Input\InputOption;

/** `restore` for items. */
final class ItemsRestore
{
    public static function describe(Command $command): void
    {
        $value = InputOption::VALUE_REQUIRED;
        $command
            ->addOption('at', null, $value, 'the newest usable point at or before this moment')
            ->addOption('point', null, $value, 'the point of this very set')
            ->addOption('to', null, $value, 'a folder of this machine for files; it is made, or empty')
            ->addOption('in-place', null, InputOption::VALUE_NONE, 'into the folder of the mailbox that each came from')
            ->addOption('conflict', null, $value, 'missing-only; replace: what says something else there now, set aside first; beside',
                'missing-only');
        self::describeSelection($command);
        $command
            ->addOption('to-mailbox', null, $value, 'the mailbox it goes to')
            ->addOption('make-mailbox', null, InputOption::VALUE_NONE,
                'if it is not there, it is made, if the server has a program for that; else the run waits until somebody has made it')
            ->addOption('to-folder', null, $value, 'the folder of the mailbox; it is made if it is missing')
            ->addOption('send', null, $value, 'an address that it is sent to, attached to a message')
            ->addOption('server', null, $value, 'the mail server, by "mail-server add"; without it the one that has the mailboxes')
            ->addOption('as', null, $value, 'of files: eml, mbox, maildir or zip; ics and vcf: one for each calendar and book of contacts',
                'eml');
        KaisekiCommand::describeDemand($command);
        KaisekiCommand::describeCopyRule($command);
    }

    public static function describeSelection(Command $command): void
    {
        $value = InputOption::VALUE_REQUIRED;
        $command
            ->addOption('item', null, $value | InputOption::VALUE_IS_ARRAY,
                'one item, as find and browse name it; of a series one day with @ and its moment behind it: @20261117T090000Z')
            ->addOption('query', null, $value, 'what this line finds at the point')
            ->addOption('mailbox', null, $value, 'a whole mailbox; with --folder one of its folders')
            ->addOption('folder', null, $value, 'a folder of the mailbox, with all below it')
            ->addOption('ever', null, InputOption::VALUE_NONE, 'with --query: also what was there at other points only')
            ->addOption('vanished-by', null, $value, 'of these only what was not there any more at this moment');
    }

    public static function selection(InputInterface $input, Workload $workload): ItemSelection
    {
        $selection = new ItemSelection(
            array_map(self::named(...), (array) $input->getOption('item')),
            (string) $input->getOption('query'),
            $input->getOption('mailbox'),
            $input->getOption('folder'),
            (string) $input->getOption('vanished-by'),
            (bool) $input->getOption('ever'),
        );
        if ($selection->ever && $selection->query === '') {
            throw new InvalidArgumentException('--ever goes with --query.');
        }
        $ways = array_filter([$selection->items !== [], $selection->query !== '', $selection->mailbox !== null]);
        if (count($ways) !== 1) {
            throw new InvalidArgumentException('Say what to bring back by one of --item, --query and --mailbox (with --folder).');
        }
        if ($selection->query !== '') {
            ItemQuery::parse($selection->query, $workload->zone);
            ItemWords::bringUpToDate($workload);
        }

        return $selection;
    }

    private static function named(string $item): string
    {
        [$key, $day] = explode('@', $item, 2) + ['', ''];
        if ($day !== '' && preg_match('/^\d{8}(T\d{6}Z)?$/D', $day) !== 1) {
            throw new InvalidArgumentException("\"$day\" names no day of a series. Write it as 20261117, or 20261117T090000Z.");
        }

        return strtolower($key).($day === '' ? '' : "@$day");
    }

    public static function carryOut(Workload $workload, InputInterface $input, Talk $talk): Told
    {
        $selection = self::selection($input, $workload);
        $at = ItemsAtPoint::toBring($workload, $input);
        [$chosen, $erased] = ErasedList::now()->apart($selection->at($workload, $at->point));
        if ($chosen === []) {
            throw CannotBringItems::because($erased === []
                ? "Nothing of that is at the point {$at->point->name}."
                : 'All of that is on the list of what was erased: "erased list" shows why.');
        }
        $order = self::order($workload, $at->point, $selection, $chosen, $input);
        if ($input->getOption('dry-run')) {
            return new Told(
                KaisekiCommand::DONE,
                [
                    'run' => null, 'point' => $at->point->name, 'order' => $order->sentence, 'entries' => count($chosen),
                    'items' => array_map(fn (ChosenItem $one): array => ItemJson::of($one->item, $one->span), $chosen),
                ],
                fn (): array => [$order->sentence, 'Nothing was done.'],
            );
        }
        if ($order->isForTheLaw()) {
            throw CannotBringItems::because('A bag for the law takes two people: order it on the worksheet of a request.');
        }
        if ($order->makes) {
            throw CannotBringItems::because('A mailbox that is made takes two people: order it on the worksheet of a request.');
        }
        $marked = $order->isToServer() ? TouchedMailboxes::by($order)->marked() : [];
        $marked = $order->send !== '' && $workload->needs_approval ? [$workload] : $marked;
        if ($marked !== []) {
            throw CannotBringItems::because(
                "What leaves for the mailboxes of {$marked[0]->name}, or out of them, waits for a second person; ".
                    'order it on the worksheet of a request.',
            );
        }
        $run = Run::query()->create([
            'workload_id' => $workload->id,
            'set_id' => $at->point->id,
            'state' => 'queued',
            'plan' => $order->toArray(),
            'is_whole' => false,
        ]);
        (new ItemsCarrier($talk->progress(...)))->carryOut($run);

        return self::told($run->refresh(), $talk);
    }

    /** @param  list<ChosenItem>  $chosen */
    private static function order(
        Workload $workload,
        BackupSet $point,
        ItemSelection $selection,
        array $chosen,
        InputInterface $input,
    ): ItemsOrder {
        $to = $input->getOption('to');
        $mailbox = (string) $input->getOption('to-mailbox');
        $folder = (string) $input->getOption('to-folder');
        $send = (string) $input->getOption('send');
        $ways = array_filter([$to !== null, $send !== '', (bool) $input->getOption('in-place'), $mailbox !== '' || $folder !== '']);
        if (count($ways) !== 1) {
            throw new InvalidArgumentException('Say where it goes by one of --to, --send, --in-place and --to-mailbox or --to-folder.');
        }
        if ($send !== '' && filter_var($send, FILTER_VALIDATE_EMAIL) === false) {
            throw new InvalidArgumentException("\"$send\" is no address that anything can be sent to.");
        }
        $server = $to === null && $send === '' ? self::server($workload, $input->getOption('server')) : null;
        $order = new ItemsOrder(
            $selection,
            $server->name ?? '',
            $mailbox,
            $folder,
            ItemConflict::tryFrom((string) $input->getOption('conflict')) ??
                throw new InvalidArgumentException('--conflict of items is missing-only, replace or beside.'),
            $to === null ? '' : Targets::absolute((string) $to),
            ItemForm::named((string) $input->getOption('as')) ??
                throw new InvalidArgumentException('--as is eml, mbox, maildir, zip, bag, ics or vcf.'),
            '',
            KaisekiCommand::copyRule($input),
            $send,
            $server !== null && (bool) $input->getOption('make-mailbox'),
            makes: $input->getOption('make-mailbox') && $server?->makes !== null,
        );
        $noun = ItemsOrder::folderInWords($chosen);
        $where = $server === null
            ? ($send === '' ? "the folder $to, {$order->form->words()}" : "a message to $send")
            : ($folder === '' ? "its own $noun" : "the $noun $folder").
                ($mailbox === '' ? '' : " of the mailbox $mailbox")." on {$server->name}";

        return $order->withSentence(sprintf(
            'Bring back %s of %s %s %s into %s, %s, and check %s.',
            $selection->wordsFor($chosen),
            $workload->name,
            $selection->asOf(),
            Words::moment($point->captured_at, 'UTC'),
            $where,
            $server === null ? 'touching nothing there' : ItemsOrder::conflictInWords($order->conflict, $chosen),
            ItemsOrder::checkInWords($chosen),
        ));
    }

    private static function server(Workload $workload, ?string $name): MailServer
    {
        if ($name !== null) {
            return MailServer::query()->where('name', $name)->first() ??
                throw new InvalidArgumentException("There is no mail server named \"$name\"; \"mail-server list\" shows those there are.");
        }

        return MailServer::of($workload) ?? throw new InvalidArgumentException(
            "Which mail server has the mailboxes of {$workload->name} is not known: say it with \"mail-server add\", ".
                'or take files with --to.',
        );
    }

    private static function told(Run $run, Talk $talk): Told
    {
        $outcome = $run->outcome ?? [];
        if ($run->state !== 'done') {
            $waits = "Run {$run->id} waits for ".implode(' and ', $run->waits_for ?? []).'.';
            $talk->say($run->state === 'waiting' ? $waits : (string) $run->failure);
        }
        $document = [
            'run' => $run->id,
            'point' => $run->set_name,
            'state' => $run->state,
            'entries' => $outcome['messages'] ?? 0,
            'there_already' => $outcome['there'] ?? 0,
            'set_aside' => $outcome['set_aside'] ?? 0,
            'bytes' => $outcome['bytes'] ?? 0,
            'seconds' => $run->seconds() ?? 0.0,
            'folders' => (object) ($outcome['folders'] ?? []),
            'waits_for' => $run->waits_for ?? [],
            'checks' => $outcome['checks'] ?? [],
            'left_out' => $outcome['left_out'] ?? [],
        ] + ($run->failure === null ? [] : ['error' => mb_scrub($run->failure)]);
        $isRight = $run->state === 'done' && ($outcome['right'] ?? false);

        return new Told(
            $isRight ? KaisekiCommand::DONE : ($run->state === 'waiting' ? KaisekiCommand::BLOCKED : KaisekiCommand::NOT_ALL_RIGHT),
            $document,
            function () use ($run, $outcome): iterable {
                if ($run->state === 'done') {
                    yield "Run {$run->id}: ".ItemCount::came($outcome).', '.Words::size($outcome['bytes']).
                        ", from {$run->set_name}".($outcome['there'] > 0 ? "; {$outcome['there']} lay there already" : '').'.';
                    foreach (CheckLine::all($outcome['checks']) as $check) {
                        yield "  {$check->result}: {$check->check}";
                    }
                    foreach (array_slice($outcome['left_out'], 0, 20) as $left) {
                        yield "  left out: {$left['path']}: {$left['because']}";
                    }
                }
            },
        );
    }
}
