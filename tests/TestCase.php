<?php

declare(strict_types=1);

namespace Tests;

use App\Care\KeptStanding;
use App\Console\CommandLine\Kaiseki;
use App\Instance;
use App\Jobs\LookAtStores;
use App\Models\Role;
use App\Models\User;
use App\Models\Workload;
use Illuminate\Contracts\Auth\Authenticatable;
use Illuminate\Contracts\Console\Kernel;
use Illuminate\Filesystem\Filesystem;
use Illuminate\Foundation\Testing\TestCase as Base;
use Illuminate\Testing\LoggedExceptionCollection;
use Symfony\Component\Console\Input\ArgvInput;
use Symfony\Component\Console\Output\StreamOutput;
use Tests\Support\Answer;
use Tests\Support\Page;
use Tests\Support\Scratch;

abstract class TestCase extends Base
{
    private ?Scratch $scratch = null;

    /** Each test begins with a database of its own, and with stores in which no set of another lies. */
    protected function setUp(): void
    {
        parent::setUp();
        (new Filesystem)->cleanDirectory(Instance::folder('stores'));
    }

    public function createApplication()
    {
        $app = require __DIR__.'/../bootstrap/app.php';
        $app->make(Kernel::class)->bootstrap();
        // Pages show what jobs saw: here they look at once.
        config(['queue.looks' => 'sync']);
        config(['session.lifetime' => 1_000_000]); // tests travel by days; SessionTest has the limit itself
        config(['session.lottery' => [0, 100]]); // else one page in fifty clears old sessions, and asks the database once more

        return $app;
    }

    /** Who acts in a test has given their password a moment ago; PasswordAgain has a test of its own. */
    public function actingAs(Authenticatable $user, $guard = null)
    {
        $this->withSession(['password_at' => time()]);

        return parent::actingAs($user, $guard);
    }

    protected function createTestResponse($response, $request): Page
    {
        return Page::of($response, $request, $this->app->bound(LoggedExceptionCollection::class)
            ? $this->app->make(LoggedExceptionCollection::class) : new LoggedExceptionCollection);
    }

    /** A folder of this test's own, gone when it ends. */
    public function scratch(): Scratch
    {
        return $this->scratch ??= new Scratch;
    }

    /** Runs bin/kaiseki's commands in this process, on the database of the test. */
    public function kaiseki(string ...$arguments): Answer
    {
        $out = fopen('php://memory', 'w+b');
        assert($out !== false);
        $application = new Kaiseki;
        $application->setAutoExit(false);
        $code = $application->run(new ArgvInput(['kaiseki', ...$arguments]), new StreamOutput($out));
        rewind($out);

        return new Answer($code, (string) stream_get_contents($out));
    }

    /** @return array<mixed> the document of a command that ends so */
    public function told(int $exit, string ...$arguments): array
    {
        $answer = $this->kaiseki(...[...$arguments, '--json']);
        self::assertSame([$exit, $answer->text], [$answer->code, $answer->text]);

        return $answer->json();
    }

    /** Looks at everything that pages show as it was when it was looked at last. */
    protected function look(): void
    {
        (new LookAtStores)->handle();
        Workload::query()->get()->each(KeptStanding::reckon(...));
    }

    /** @param  list<string>|null  $groups */
    protected function person(Role $role, ?array $groups = null): User
    {
        static $number = 0;
        $number++;

        return User::query()->create([
            'name' => "Person $number",
            'email' => "person$number@sorrelsound.example",
            'role' => $role,
            'workload_groups' => $groups,
            'password' => 'tide-table-9',
            'zone' => 'Europe/Oslo',
        ]);
    }

    protected function tearDown(): void
    {
        $this->scratch?->remove();
        $this->scratch = null;
        parent::tearDown();
    }
}
