/** Go through the hits: what was found, how much is found, and what else to look for. */
import { Tab, TabGroup, TabList, TabPanel, TabPanels } from '@headlessui/react';
import { Finding } from './finding.tsx';
import { Families } from './families.tsx';
import { HitList } from './hit-list.tsx';
import { Seek } from './seek.tsx';
import { useView } from '../stores/view.ts';

const TABS = [
  { name: 'Hits', Panel: HitList },
  { name: 'Finding', Panel: Finding },
  { name: 'Seek', Panel: Seek },
  { name: 'Sounds', Panel: Families },
] as const;

export function Check() {
  const tab = useView((s) => s.checkTab);
  return (
    <TabGroup
      className="flex min-h-0 grow flex-col gap-3"
      selectedIndex={tab}
      onChange={(checkTab) => useView.setState({ checkTab })}
    >
      <TabList className="flex gap-4 border-b border-rope">
        {TABS.map(({ name }) => (
          <Tab
            key={name}
            className="-mb-px cursor-pointer border-b-2 border-transparent pb-1.5 text-fog data-selected:border-lamp data-selected:text-sail"
          >
            {name}
          </Tab>
        ))}
      </TabList>
      <TabPanels className="flex min-h-0 grow flex-col">
        {TABS.map(({ name, Panel }) => (
          <TabPanel key={name} className="flex min-h-0 grow flex-col gap-3">
            <Panel />
          </TabPanel>
        ))}
      </TabPanels>
    </TabGroup>
  );
}
