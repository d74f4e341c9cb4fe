<x-run-page :run="$run">
    <x-slot:came>one jar</x-slot:came><x-slot:set-aside>the lid</x-slot:set-aside><x-slot:facts></x-slot:facts>
    <x-slot:back-told>the jar is closed.</x-slot:back-told><x-slot:back-means>
        <p>The jar is closed again.</p>
    </x-slot:back-means>
</x-run-page>
