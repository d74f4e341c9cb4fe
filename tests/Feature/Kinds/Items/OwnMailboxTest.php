<?php

declare(strict_types=1);

use App\Kinds\Items\Catalog\MailboxNames;
use App\Kinds\Items\Own\GivenMailbox;
use App\Kinds\Items\Own\OwnMailbox;
use App\Kinds\Items\Own\OwnRule;
use App\Kinds\Items\Server\MailServer;
use App\Models\Role;
use App\Models\Workload;
use Illuminate\Support\Facades\DB;

/*
 * Whose mailbox one is, asked by the menu of every page: out of names that are kept apart, and the same as by going through all of them.
 */

/** @param  list<string>  $names */
function folders(Workload $workload, array $names): void
{
    $path = (int) DB::table('item_folders')->max('path_id');
    foreach ($names as $name) {
        foreach (['INBOX', 'Sent'] as $folder) {
            $row = ['path_id' => ++$path, 'workload_id' => $workload->id, 'mailbox' => $name, 'folder' => $folder];
            DB::table('item_folders')->insert($row);
        }
    }
    MailboxNames::add($workload->id, [...$names, ...$names]);
}

it('finds the mailboxes of an address as going through all of them does', function (): void {
    mt_srand(1217);
    $piece = fn (): string => ['ada', 'Ada', 'ben', 'b', 'crew', 'É', 'é', 'sorrel.example', '', 'x{name}', '100%'][mt_rand(0, 10)];
    $namings = ['{mailbox}', '{name}', '{name}@{above}', '{name}.{above}@sorrel.example', 'u-{mailbox}@Crew', '{name}{above}'];
    $workloads = [];
    foreach ($namings as $i => $naming) {
        $workloads[] = $workload = Workload::query()->create(['name' => "post-$i", 'kind' => 'items']);
        OwnRule::settle($workload, 10, 10, null);
        MailServer::query()->create(
            ['name' => "server-$i", 'imap' => 'imap://127.0.0.1:1', 'user' => 'desk', 'password' => 'x', 'naming' => $naming],
        )->holds($workload);
        $shapes = ['%s', '%s/%s', '%s@%s', '%s/%s@%s', '%s/%s/%s', '%s.%s@%s'];
        $names = array_map(fn (): string => sprintf($shapes[mt_rand(0, 5)], $piece(), $piece(), $piece()), range(1, 60));
        folders($workload, array_values(array_unique($names)));
    }
    $person = $this->person(Role::Requester);
    $found = 0;
    $email = fn (): string => sprintf(['%s@%s', '%s.%s@%s', 'u-%s@%s'][mt_rand(0, 2)], $piece(), $piece(), $piece());
    $emails = array_map($email, range(1, 80));
    foreach ([...$emails, 'ada.crew@sorrel.example', 'ben@crew', 'BEN@CREW', 'É@crew'] as $email) {
        $person->email = $email;
        $expected = [];
        foreach ($workloads as $i => $workload) {
            $server = MailServer::of($workload);
            foreach (DB::table('item_folders')->where('workload_id', $workload->id)->distinct()->pluck('mailbox') as $name) {
                $bears = array_map(mb_strtolower(...), [$name, $server->accountOf($name)]);
                if (str_contains($email, '@') && in_array(mb_strtolower($email), $bears, true)) {
                    $expected[] = "post-$i $name";
                }
            }
        }
        $told = array_map(fn (OwnMailbox $own): string => "{$own->workload->name} $own->name", OwnMailbox::of($person));
        sort($expected);
        sort($told);
        expect($told)->toBe($expected, $email);
        $found += count($told);
    }
    expect($found)->toBeGreaterThan(20);
});

it('asks no more of a database of many mailboxes and rules than of one', function (): void {
    $asked = function (): int {
        DB::enableQueryLog();
        DB::flushQueryLog();
        OwnMailbox::of($this->reader);

        return count(DB::getQueryLog());
    };
    $this->reader = $this->person(Role::Requester);
    $before = null;
    foreach ([1, 5] as $round) {
        for ($i = 0; $i < $round; $i++) {
            $workload = Workload::query()->create(['name' => "post-$round-$i", 'kind' => 'items']);
            OwnRule::settle($workload, 10, 10, null);
            folders($workload, array_map(fn (int $k): string => "person-$k@crew.example", range(1, 50)));
        }
        $before ??= $asked();
    }
    expect($asked())->toBe($before);
});

it('knows a mailbox for as long as a folder is one of it', function (): void {
    $workload = Workload::query()->create(['name' => 'post', 'kind' => 'items']);
    OwnRule::settle($workload, 10, 10, null);
    folders($workload, ['ada@crew.example', 'office']);
    $ada = $this->person(Role::Requester);
    $ada->email = 'Ada@Crew.example';
    GivenMailbox::query()->create(['workload_id' => $workload->id, 'user_id' => $ada->id, 'mailbox' => 'office']);
    $names = fn (): array => array_column(OwnMailbox::of($ada), 'name');
    expect($names())->toBe(['ada@crew.example', 'office']);
    DB::table('item_folders')->where('mailbox', 'office')->delete();
    DB::table('item_folders')->where(['mailbox' => 'ada@crew.example', 'folder' => 'Sent'])->delete();
    MailboxNames::forgetGone($workload);
    expect($names())->toBe(['ada@crew.example']);
});
